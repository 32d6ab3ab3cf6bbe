import { usualLimits } from "@/contract/providers";
import type { LastAnswer, PastedCall, RawAnswer, Tried } from "@/contract/trials";
import { encode, hiddenExtras, hiddenKey, type WireCall } from "@/core/wire/encode";
import type { Boot } from "../boot";
import { shownHeaders } from "../exchange/credentials";
import { rawAnswer } from "../exchange/raw-answer";
import { Refusal } from "../refusal";
import { keyFrom } from "../security/keys";
import { addressOf, type StoredProvider } from "./provider-store";

/** Makes a call of a provider apart from any conversation, and gives its raw answer. @throws {Refusal} where its credentials are missing */
export async function trialCall(
  boot: Boot,
  provider: StoredProvider,
  call: Omit<WireCall, "key">,
  signal?: AbortSignal,
  key?: string,
): Promise<Tried> {
  const resolved = await boot.credentials.resolve(provider);
  if (resolved.problem) throw new Refusal(resolved.problem);
  const given = key ?? resolved.key;
  const { extras } = resolved;
  const sent = encode(provider.profile, { ...call, extras, key: given });
  const shown = encode(provider.profile, {
    ...call,
    extras: hiddenExtras(Object.keys(extras)),
    key: given === undefined ? undefined : hiddenKey,
  });
  const answer = await rawAnswer(
    { ...sent, url: addressOf(provider, sent), headers: { ...sent.headers, ...resolved.headers } },
    provider.limits,
    resolved.secrets,
    resolved.way,
    signal,
  );
  return {
    request: {
      method: shown.method,
      url: addressOf(provider, shown),
      headers: { ...shown.headers, ...shownHeaders(provider) },
      body: shown.body ?? "",
    },
    answer,
  };
}

/** Asks a provider something short, apart from any conversation. @throws {Refusal} where its credentials are missing */
export function tryCall(
  boot: Boot,
  provider: StoredProvider,
  { model, message, stream }: { model: string; message: string; stream: boolean },
  signal?: AbortSignal,
): Promise<Tried> {
  const messages = [{ role: "visitor" as const, text: message }];
  return trialCall(boot, provider, { model, stream, messages, settings: { maxOutput: 300 } }, signal);
}

/** Makes a pasted request as it stands, with `$NAME` read from the environment. */
export function pastedCall(
  { method, url, headers, user, body, secrets: typed = [] }: PastedCall,
  signal?: AbortSignal,
): Promise<RawAnswer> {
  const secrets = [...typed];
  const filled = (text: string) =>
    text.replace(/\$\{?([A-Za-z_]\w*)\}?/g, (written, name: string) => {
      const value = keyFrom(name);
      if (value === undefined) return written;
      secrets.push(value);
      return value;
    });
  const all = Object.fromEntries(headers.map(([name, value]) => [name.toLowerCase(), filled(value)]));
  if (user !== undefined) {
    const pair = Buffer.from(filled(user)).toString("base64");
    secrets.push(pair);
    all.authorization ??= `Basic ${pair}`;
  }
  return rawAnswer(
    { method, url: filled(url), headers: all, ...(body === "" ? {} : { body }) },
    usualLimits,
    secrets,
    {},
    signal,
  );
}

/** The last whole answer that a provider gave to a reply, as text. */
export function lastAnswer({ dispatches }: Boot, provider: StoredProvider): LastAnswer | null {
  const last = dispatches.lastOf(provider.id);
  if (!last?.bytes || last.endedAt === null || last.status === null) return null;
  return {
    at: last.startedAt,
    model: last.model,
    contentType: last.headers["content-type"] ?? "",
    status: last.status,
    text: last.bytes.toString("utf8"),
    arrivals: last.arrivals.length,
    ms: last.arrivals.at(-1)?.[0] ?? last.endedAt - last.startedAt,
  };
}
