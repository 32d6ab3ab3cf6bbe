import { execFile } from "node:child_process";
import { existsSync } from "node:fs";
import type { Preflight } from "@/contract/apps";
import { wordFor } from "@/core/problem/problem";
import { flawsIn } from "@/core/revision/flaws";
import { secretsIn } from "@/core/tools/secrets";
import type { StoredApp } from "../apps/app-store";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { type HasCredentials, variablesOf } from "../exchange/credentials";
import type { HasProviders, StoredProvider } from "../providers/provider-store";
import { keyFrom } from "../security/keys";
import type { HasSecrets } from "../tools/secret-store";
import { standingOf } from "./standing";

type Item = Preflight["items"][number];

/** What is missing before the draft of an app can answer, with the next step for each. */
export async function preflight(
  boot: HasDispatches & HasProviders & HasCredentials & HasSecrets,
  app: StoredApp,
): Promise<Preflight> {
  const { provider, model, fallbacks = [], memory, tools = [] } = app.draft;
  const offersTools = tools.length > 0;
  const summariser = memory.kind === "summary" && memory.by ? [{ ...memory.by, ...summing }] : [];
  const all: Asked[] = [
    { provider, model, ...answering, offersTools },
    ...fallbacks.map((fallback) => ({ ...fallback, ...standingIn, offersTools })),
    ...summariser,
  ];
  const items = await Promise.all(all.map((asked) => itemsOf(boot, asked)));
  const found = [...promptItems(app), ...secretItems(boot, app), ...items.flat(), ...(await environmentItems(boot))];
  // two of these models may lack the same; the first is the one that answers
  return { items: found.filter(({ what }, at) => found.findIndex((each) => each.what === what) === at) };
}

/** A model that the draft asks, and what for. */
interface Asked {
  provider: string;
  model: string;
  blocks: boolean;
  /** Whether it is offered tools. */
  offersTools: boolean;
  /** What its provider is to the app. */
  whose: string;
  where: Item["where"];
  station: string;
}

const answering = {
  blocks: true,
  whose: "The provider that this app speaks through",
  where: "model",
  station: "Model station",
} as const;
const standingIn = { ...answering, blocks: false, whose: "The provider of a fallback" } as const;
const summing = {
  blocks: false,
  offersTools: false,
  whose: "The provider that sums up",
  where: "memory",
  station: "Memory station",
} as const;

function promptItems({ draft }: StoredApp): Item[] {
  return flawsIn(draft, Number.POSITIVE_INFINITY).flatMap((check): Item[] => {
    if (check.kind !== "no-value") return [];
    return [
      {
        blocks: true,
        what: `The prompt holds {{${check.name}}}, and nothing gives it a value.`,
        next: "Give it one in the Prompt station; callers can give their own.",
        where: "prompt",
      },
    ];
  });
}

function secretItems({ secrets }: HasSecrets, { id, draft }: StoredApp): Item[] {
  return secretsIn(draft.tools ?? []).flatMap((name): Item[] => {
    const had = secrets.read(id, name);
    if ("value" in had) return [];
    return [
      {
        blocks: false,
        what: `A tool's header names $${name}, and ${had.missing}.`,
        next: "Say in the Model station where it comes from.",
        where: "model",
      },
    ];
  });
}

async function itemsOf(boot: HasDispatches & HasProviders & HasCredentials, asked: Asked): Promise<Item[]> {
  const { provider: slug, model: name, blocks, whose, where, station } = asked;
  const item = (what: string, next: string, at: Item["where"] = where): Item => ({ blocks, what, next, where: at });
  const provider = boot.providers.bySlug(slug);
  if (!provider) return [item(`${whose} is gone.`, `Choose another model in the ${station}.`)];
  const unset = variablesOf(provider.credential).filter((variable) => keyFrom(variable) === undefined);
  if (unset.length > 0)
    return unset.map((variable) =>
      item(
        `${variable}, a key of ${provider.name}, is not set.`,
        `Add the line ${variable}=… to the file .env.`,
        "terminal",
      ),
    );
  const stored = boot.providers.model(provider.id, name);
  if (!stored) return [item(`${provider.name} has no model ${name}.`, `Choose another in the ${station}.`)];
  if (asked.offersTools && !provider.profile.placesFor(name).offersTools)
    return [
      item(
        `The request that ${provider.name} gets has no place for tools, and this app offers some.`,
        `Choose another model in the ${station}, or give them a place in its wire profile.`,
      ),
    ];
  return standingItems(await standingOf(boot, provider), provider, asked, item);
}

function standingItems(
  { problem, models, allowance }: Awaited<ReturnType<typeof standingOf>>,
  { name }: StoredProvider,
  { model, station }: Asked,
  item: (what: string, next: string, at?: Item["where"]) => Item,
): Item[] {
  if (problem) return [item(`${name}: ${wordFor(problem.kind)}. ${problem.detail}`, problem.advice, "providers")];
  const listed = models.find((each) => each.name === model);
  if (models.length > 0 && !listed)
    return [item(`${name} does not list the model ${model}.`, `Choose one that it lists, in the ${station}.`)];
  if (listed?.isOn === false)
    return [item(`${model} is not switched on at ${name}.`, "Switch it on in the list of its models.", "providers")];
  return allowance
    .filter(({ isLow }) => isLow)
    .map(({ of, left, most, resets }) => ({
      blocks: false,
      what: `${name} has ${left} of ${most} ${of} left${resets === undefined ? "" : `, anew in ${resets}`}.`,
      next: `Wait, or choose another model in the ${station}.`,
      where: "providers",
    }));
}

async function environmentItems({ providers }: HasProviders): Promise<Item[]> {
  const isUsed = providers.all().some(({ credential }) => variablesOf(credential).length > 0);
  if (!isUsed || !existsSync(".env") || (await isIgnored(".env"))) return [];
  return [
    {
      blocks: false,
      what: "The file .env holds keys, and version control does not ignore it.",
      next: "Add the line .env to .gitignore.",
      where: "terminal",
    },
  ];
}

/** Whether version control leaves a file alone; true where there is none. */
function isIgnored(file: string): Promise<boolean> {
  return new Promise((resolve) => {
    execFile("git", ["check-ignore", "-q", file], { timeout: 5_000 }, (error) => resolve(error?.code !== 1));
  });
}
