import { execFile } from "node:child_process";
import { existsSync } from "node:fs";
import type { Preflight } from "@/contract/apps";
import { wordFor } from "@/core/problem/problem";
import { checksOf } from "@/core/revision/checks";
import { variablesOf } from "../exchange/credentials";
import type { Home } from "../home";
import type { StoredProvider } from "../providers/provider-store";
import { standingOf } from "../providers/standing";
import { keyFrom } from "../security/keys";
import type { StoredApp } from "./app-store";

type Item = Preflight["items"][number];

/** What is missing before the draft of an app can answer, with the next step for each. */
export async function preflight(boot: Home, app: StoredApp): Promise<Preflight> {
  const { provider: id, model, fallbacks = [] } = app.draft;
  const all = [{ provider: id, model }, ...fallbacks];
  const items = await Promise.all(all.map((candidate, place) => candidateItems(boot, candidate, place === 0)));
  return { items: [...promptItems(app), ...items.flat(), ...(await environmentItems(boot))] };
}

function promptItems({ draft }: StoredApp): Item[] {
  return checksOf(draft, Number.POSITIVE_INFINITY).flatMap((check): Item[] => {
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

async function candidateItems(
  boot: Home,
  { provider: slug, model: name }: { provider: string; model: string },
  isFirst: boolean,
): Promise<Item[]> {
  const item = (what: string, next: string, where: Item["where"]): Item => ({ blocks: isFirst, what, next, where });
  const provider = boot.providers.bySlug(slug);
  if (!provider)
    return [
      item("The provider that this app speaks through is gone.", "Choose another model in the Model station.", "model"),
    ];
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
  if (!stored) return [item(`${provider.name} has no model ${name}.`, "Choose another in the Model station.", "model")];
  return standingItems(await standingOf(boot, provider), provider, name, item);
}

function standingItems(
  { problem, models, allowance }: Awaited<ReturnType<typeof standingOf>>,
  { name }: StoredProvider,
  model: string,
  item: (what: string, next: string, where: Item["where"]) => Item,
): Item[] {
  if (problem) return [item(`${name}: ${wordFor(problem.kind)}. ${problem.detail}`, problem.advice, "providers")];
  const listed = models.find((each) => each.name === model);
  if (models.length > 0 && !listed)
    return [
      item(`${name} does not list the model ${model}.`, "Choose one that it lists, in the Model station.", "model"),
    ];
  if (listed?.isOn === false)
    return [item(`${model} is not switched on at ${name}.`, "Switch it on in the list of its models.", "providers")];
  return allowance
    .filter(({ isLow }) => isLow)
    .map(({ of, left, most, resets }) => ({
      blocks: false,
      what: `${name} has ${left} of ${most} ${of} left${resets === undefined ? "" : `, anew in ${resets}`}.`,
      next: "Wait, or choose another model in the Model station.",
      where: "providers",
    }));
}

async function environmentItems({ providers }: Home): Promise<Item[]> {
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
