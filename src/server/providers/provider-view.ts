import type { ChangeProvider, Model, Provider, Standing, WireProvider } from "@/contract/providers";
import { offerSchema, usualLimits } from "@/contract/providers";
import { type Problem, problem } from "@/core/reply/problem";
import { createDecoder } from "@/core/wire/decode";
import { encode } from "@/core/wire/encode";
import { compileProfile } from "@/core/wire/profile";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import type { Boot } from "../boot";
import { exchange } from "../dispatches/exchange";
import { refuse } from "../refusal";
import { keyFrom } from "../security/keys";
import { Scrubber } from "../security/scrub";
import { addressOf, type StoredProvider } from "./provider-store";

/** The wire profiles that ship with the product, by name. */
const shippedProfiles: Record<string, unknown> = { "chat-completions": chatCompletions };

/** Milliseconds that a look at whether a provider answers may take. */
const lookLimits = { connect: 2_000, first: 5_000, between: 5_000, all: 10_000 };

/** A provider as the bench shows it; its key is only said to be there or not. */
export function viewOfProvider({ apps, providers }: Boot, provider: StoredProvider): Provider {
  const { id, name, address, profile, keyVariable, limits } = provider;
  return {
    id,
    name,
    address,
    shape: profile.source.shape,
    keyVariable,
    keyIsSet: keyVariable !== null && keyFrom(keyVariable) !== undefined,
    limits,
    models: providers.models(id),
    apps: apps.speakingThrough(id).length,
  };
}

/** A provider by its id. @throws {Refusal} `not-found` */
export function providerAt({ providers }: Boot, id: string): StoredProvider {
  return providers.byId(id) ?? refuse("not-found", `There is no provider ${id}.`);
}

/** Wires a provider. @throws {Refusal} where its name is taken or its profile is not shipped */
export function wireProvider(
  { database, providers }: Boot,
  { profile, models, ...provider }: WireProvider,
): StoredProvider {
  const source = shippedProfiles[profile];
  if (source === undefined)
    refuse("bad-request", `There is no wire profile ${profile}; there is ${Object.keys(shippedProfiles).join(", ")}.`);
  if (providers.byName(provider.name))
    refuse("conflict", `There is a provider ${provider.name} already.`, { advice: "Give this one another name." });
  compileProfile(source);
  return database.transaction(() => {
    const id = providers.add({ ...provider, profile: JSON.stringify(source), limits: usualLimits }, Date.now());
    providers.putModels(id, models);
    return providers.byId(id) as StoredProvider;
  })();
}

/** Changes what is given of a provider. */
export function changeProvider(boot: Boot, id: string, change: ChangeProvider): StoredProvider {
  const { address, keyVariable, limits } = providerAt(boot, id);
  boot.providers.change(id, {
    address: change.address ?? address,
    keyVariable: change.keyVariable === undefined ? keyVariable : change.keyVariable,
    limits: change.limits ?? limits,
  });
  return providerAt(boot, id);
}

/** Deletes a provider that no app speaks through. @throws {Refusal} `conflict` */
export function deleteProvider(boot: Boot, id: string): void {
  const { name } = providerAt(boot, id);
  const users = boot.apps.speakingThrough(id);
  if (users.length > 0)
    refuse("conflict", `${users.join(", ")} ${users.length === 1 ? "speaks" : "speak"} through ${name}.`, {
      advice: "Have them speak through another provider first.",
    });
  boot.providers.delete(id);
}

/** Asks a provider for its models, which tells whether it answers and takes the key. */
export async function standingOf(provider: StoredProvider): Promise<Standing> {
  const { profile, keyVariable } = provider;
  const key = keyVariable === null ? undefined : keyFrom(keyVariable);
  const { headers } = encode(profile, { model: "", key, stream: false, messages: [], settings: {} });
  const started = performance.now();
  const answer = await fetchWhole(addressOf(provider, { path: profile.source.models.path }), headers, key);
  const answeredMs = "text" in answer ? Math.round(performance.now() - started) : null;
  if (!("text" in answer)) return { answeredMs, models: [], problem: answer };
  if (answer.status === 200) {
    const names = namesIn(profile.modelNames.all(parsed(answer.text)));
    if (names.length > 0) return { answeredMs, models: names, problem: null };
    return {
      answeredMs,
      models: [],
      problem: problem("bad-reply", `The answer lists no models at ${profile.source.models.names}.`),
    };
  }
  if (keyVariable !== null && key === undefined)
    return {
      answeredMs,
      models: [],
      problem: problem("misconfigured", `It answers, but ${keyVariable} is not set.`, {
        advice: `Add the line ${keyVariable}=… to the file .env.`,
      }),
    };
  const decoder = createDecoder(profile, { status: answer.status, contentType: answer.contentType });
  const [event] = [...decoder.feed(new TextEncoder().encode(answer.text)), ...decoder.close()];
  return { answeredMs, models: [], problem: event?.event === "problem" ? event.data : null };
}

/** Stand-ins that run on this machine and are not wired. */
export async function offeredProviders({ providers }: Boot): Promise<WireProvider[]> {
  const first = Number(process.env.FINCH_STANDINS ?? 4610);
  const wired = new Set(providers.all().map(({ address }) => address));
  const address = `http://127.0.0.1:${first}`;
  if (wired.has(address)) return [];
  const answer = await fetchWhole(`${address}/standin/about`, {}, undefined);
  if (!("text" in answer) || answer.status !== 200) return [];
  const about = parsed(answer.text) as
    | { name?: string; profile?: string; keyVariable?: string; models?: Model[] }
    | undefined;
  const offer = offerSchema.safeParse({ ...about, address });
  return offer.success ? [offer.data] : [];
}

/** The whole of a small answer, without following redirects; a key in it is taken out. */
function fetchWhole(
  url: string,
  headers: Record<string, string>,
  key: string | undefined,
): Promise<{ status: number; contentType: string; text: string } | Problem> {
  return new Promise((resolve) => {
    const scrubber = new Scrubber(key);
    const parts: Buffer[] = [];
    let size = 0;
    let head = { status: 0, contentType: "" };
    const look = exchange({ method: "GET", url, headers }, lookLimits, {
      head: (answer) => {
        head = answer;
      },
      bytes: (bytes) => {
        size += bytes.length;
        if (size > 4 * 1024 * 1024) {
          void look.abort();
          resolve(problem("bad-reply", "The answer is larger than 4 MiB."));
        } else parts.push(Buffer.from(scrubber.feed(bytes)));
      },
      close: () => resolve({ ...head, text: Buffer.concat([...parts, scrubber.close()]).toString("utf8") }),
      fail: resolve,
    });
  });
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

function namesIn(values: unknown[]): string[] {
  return values.filter((value): value is string => typeof value === "string");
}
