import { z } from "zod";
import { line } from "@/contract/credentials";
import { offerSchema, type WireProvider } from "@/contract/providers";
import { type FaultPlan, type FaultStanding, faultSchema, type ListedModel, type Standing } from "@/contract/tries";
import { type Problem, problem } from "@/core/problem/problem";
import type { Limits } from "@/core/provider/limits";
import { countIn } from "@/core/tokens/count";
import { createDecoder } from "@/core/wire/decode";
import { credentialsOf } from "@/core/wire/encode";
import { isLow, rateLimitsIn } from "@/core/wire/failure";
import { parseJson } from "@/core/wire/json";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { addressOf } from "../exchange/connection";
import { type HasCredentials, withKeyAdvice } from "../exchange/credentials";
import { ownValues } from "../exchange/own-values";
import { rawAnswer } from "../exchange/raw-answer";
import { Refusal, refuse } from "../ground/refusal";
import type { HasProviders, StoredProvider } from "../providers/provider-store";

/** Milliseconds that a look at whether a provider answers may take. */
const lookLimits = { connect: 2_000, first: 5_000, between: 5_000, all: 10_000 };

/** Asks a provider for its models, which tells whether it answers and takes the key; with what is left of its limits. */
export async function standingOf(boot: HasDispatches & HasCredentials, provider: StoredProvider): Promise<Standing> {
  return { ...(await listingOf(boot, provider)), ...allowanceOf(boot, provider) };
}

/** What the last answer of a provider said is left of its rate limits. */
function allowanceOf(
  { dispatches }: HasDispatches,
  { id, profile }: StoredProvider,
): Pick<Standing, "allowance" | "toldAt"> {
  const last = dispatches.lastOf(id);
  if (!last) return { allowance: [], toldAt: null };
  const limits = rateLimitsIn(profile, last.headers, [parseJson(last.bytes?.toString("utf8") ?? "")]);
  return { allowance: limits.map((limit) => ({ ...limit, isLow: isLow(limit) })), toldAt: last.endedAt };
}

async function listingOf(
  boot: HasCredentials,
  provider: StoredProvider,
): Promise<Omit<Standing, "allowance" | "toldAt">> {
  const { models } = provider.profile.source;
  const asked = await asks(boot, provider, models?.path ?? "/");
  if ("kind" in asked) return { answeredMs: null, models: [], problem: asked };
  const { answer, missing } = asked;
  if (answer.problem) return { answeredMs: null, models: [], problem: answer.problem };
  const answeredMs = Math.round(answer.ms);
  if (!models) return { answeredMs, models: [], problem: missing ?? null };
  if (answer.status !== 200)
    return {
      answeredMs,
      models: [],
      problem: missing
        ? { ...missing, detail: `It answers, but ${withoutName(missing.detail, provider.name)}` }
        : problemIn(provider, answer),
    };
  const listed = modelsIn(provider, parseJson(answer.text));
  if (listed.length > 0) return { answeredMs, models: listed, problem: null };
  const reported = problemIn(provider, answer);
  return {
    answeredMs,
    models: [],
    problem:
      reported?.kind === "bad-reply" || !reported
        ? problem("bad-reply", `The answer lists no models at ${models.list} with a name at ${models.name}.`)
        : reported,
  };
}

function withoutName(detail: string, name: string): string {
  return detail.replace(`${name} needs a key, and `, "");
}

/** A GET of one of the provider's own paths, with its credentials; without them where they are missing. */
async function asks(
  boot: HasCredentials,
  provider: StoredProvider,
  path: string,
  { method = "GET", body, limits = lookLimits }: { method?: string; body?: string; limits?: Limits } = {},
) {
  const resolved = await boot.credentials.resolve(provider);
  const isKeyMissing = resolved.problem?.kind === "misconfigured" && provider.credential.kind === "key";
  if (resolved.problem && !isKeyMissing) return resolved.problem;
  const known = resolved.problem
    ? { key: undefined, extras: {}, values: ownValues(provider), headers: {}, secrets: [], way: {} }
    : resolved;
  const { headers, path: query } = credentialsOf(provider.profile, known.key, known.extras, known.values);
  const sent: Record<string, string> = { ...headers, ...known.headers };
  if (body === undefined) delete sent["content-type"];
  const url = addressOf(provider, { path: path + query }, known.values);
  const signed = await boot.credentials.sign(
    provider,
    { method, url, headers: sent, body },
    known.secrets,
    AbortSignal.timeout(limits.all),
  );
  if (signed.problem) return signed.problem;
  const answer = await rawAnswer(signed.outgoing, limits, known.secrets, known.way);
  return { answer, missing: resolved.problem };
}

function problemIn(
  { profile, credential }: StoredProvider,
  answer: { status: number | null; contentType: string; headers: Record<string, string>; text: string },
): Problem | null {
  const decoder = createDecoder(profile, {
    status: answer.status ?? 0,
    contentType: answer.contentType || "application/json",
    headers: answer.headers,
    streamed: false,
  });
  const events = [...decoder.feed(new TextEncoder().encode(answer.text)), ...decoder.close()];
  const last = events.at(-1);
  return last?.event === "problem" ? withKeyAdvice(last.data, credential) : null;
}

/** Models of a provider's list that are looked at. */
const mostListed = 2_000;

function modelsIn({ profile }: StoredProvider, document: unknown): ListedModel[] {
  const { models } = profile;
  if (!models) return [];
  const listed = models.list.all(document).slice(0, mostListed);
  return listed.flatMap((each): ListedModel[] => {
    const name = models.name.first(each);
    const isOn = models.isOn?.first(each);
    const window = models.window?.first(each);
    if (typeof name !== "string" || name === "" || name.length > 200) return [];
    return [
      {
        name,
        isOn: typeof isOn === "boolean" ? isOn : null,
        window: countIn(window) || null,
      },
    ];
  });
}

/** Switches a model on at its provider. @throws {Refusal} where it can't be */
export async function switchOn(boot: HasCredentials, provider: StoredProvider, model: string): Promise<void> {
  const how = provider.profile.source.models?.switchOn;
  const compiled = provider.profile.models?.switchOn;
  if (!how || !compiled)
    refuse("conflict", `The wire profile of ${provider.name} does not say how a model is switched on.`, {
      advice: "Switch it on at the provider, or add models.switchOn to the profile.",
    });
  const body = compiled.body({ model });
  const asked = await asks(boot, provider, String(compiled.path({ model: encodeURIComponent(model) })), {
    method: how.method,
    body: body === undefined ? undefined : JSON.stringify(body),
    // a model that is fetched first takes as long as one that is loaded
    limits: { ...provider.limits, all: provider.limits.all + (provider.limits.loading ?? 0) },
  });
  if ("kind" in asked) throw new Refusal(asked);
  const { answer } = asked;
  if (answer.problem) throw new Refusal(answer.problem);
  if (answer.status === null || answer.status >= 300)
    throw new Refusal(
      problemIn(provider, answer) ?? problem("bad-reply", `${provider.name} answered with ${answer.status}.`),
    );
}

/** Stand-ins that run on this machine and are not wired. */
export async function offeredProviders({ providers }: HasProviders): Promise<WireProvider[]> {
  const first = Number(process.env.FINCH_STANDINS ?? 4610);
  const wired = new Set(providers.all().map(({ address }) => address));
  const addresses = Array.from({ length: 5 }, (_, at) => `http://127.0.0.1:${first + at}`).filter(
    (address) => !wired.has(address),
  );
  const offers = await Promise.all(addresses.map((address) => aboutStandIn(address)));
  return offers.flatMap((offer) => offer ?? []);
}

async function aboutStandIn(address: string): Promise<WireProvider | undefined> {
  const answer = await control(address, "GET", "about");
  const about = answer && parseJson(answer.text);
  const offer = offerSchema.safeParse(typeof about === "object" ? { ...about, address } : undefined);
  return offer.success ? offer.data : undefined;
}

const samplesSchema = z.record(z.string().max(100), line.max(1_000));

/** The made-up keys that a stand-in on this machine gives along, by their variables; none of any other provider. */
export async function samplesOf(provider: Pick<StoredProvider, "address">): Promise<Record<string, string>> {
  if (!isLocal(provider)) return {};
  const answer = await control(provider.address, "GET", "samples");
  const read = samplesSchema.safeParse(answer && parseJson(answer.text));
  return read.success ? read.data : {};
}

const notOne: FaultStanding = { isStandIn: false, plan: null, faults: [] };

/** Whether a provider is a stand-in, what it does wrong now, and what it can do wrong. */
export async function faultOf(provider: StoredProvider): Promise<FaultStanding> {
  if (!isLocal(provider)) return notOne;
  const answer = await control(provider.address, "GET", "fault");
  const told = answer && parseJson(answer.text);
  if (typeof told !== "object" || told === null || !("fault" in told)) return notOne;
  const { faults, ...plan } = told as { fault: unknown; faults?: unknown };
  const read = faultSchema.safeParse({ isStandIn: true, plan: plan.fault === null ? null : plan, faults });
  return read.success ? read.data : notOne;
}

/** Has a stand-in do something wrong, or nothing. @throws {Refusal} with the reason where it does not take the plan */
export async function setFault(provider: StoredProvider, plan: FaultPlan | null): Promise<void> {
  if (!isLocal(provider)) refuse("conflict", `${provider.name} is no stand-in.`);
  const answer = await control(provider.address, plan ? "PUT" : "DELETE", "fault", plan ?? undefined);
  if (answer) return;
  refuse("bad-request", `${provider.name} did not take this fault plan.`, {
    advice: "Give the numbers that the plan needs.",
  });
}

function isLocal({ address }: Pick<StoredProvider, "address">): boolean {
  return /^(?:127\.\d+\.\d+\.\d+|localhost|\[::1\])$/.test(new URL(address).hostname);
}

async function control(
  address: string,
  method: string,
  what: string,
  body?: object,
): Promise<{ text: string } | undefined> {
  const url = `${address.replace(/\/+$/, "")}/standin/${what}`;
  const answer = await rawAnswer({ method, url, headers: {}, body: body && JSON.stringify(body) }, lookLimits, [], {});
  return answer.problem || answer.status !== 200 ? undefined : answer;
}
