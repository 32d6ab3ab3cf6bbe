import type { SentRequest } from "@/contract/dispatches";
import type { RawAnswer } from "@/contract/trials";
import { hiddenExtra, hiddenKey } from "@/core/wire/encode";
import type { Boot } from "../boot";
import { shownHeaders } from "../exchange/credentials";
import { rawAnswer } from "../exchange/raw-answer";
import { Refusal, refuse } from "../refusal";

/**
 * Sends the request of a dispatch once more, as it was edited, apart from the conversation. The
 * key goes along only to the provider's own address.
 * @throws {Refusal}
 */
export async function sendAgain(
  boot: Boot,
  id: string,
  edited: Omit<SentRequest, "method">,
  signal: AbortSignal,
): Promise<RawAnswer> {
  const dispatch = boot.dispatches.byId(id) ?? refuse("not-found", `There is no dispatch ${id}.`);
  const provider =
    boot.providers.byId(dispatch.providerId) ?? refuse("conflict", `${dispatch.provider} is not wired any more.`);
  const origin = new URL(provider.address).origin;
  if (new URL(edited.url).origin !== origin)
    refuse("bad-request", `The request can be sent to ${origin} only, since it carries the key of ${provider.name}.`, {
      advice: "Change the path, the headers or the body; wire another provider for another address.",
    });
  const resolved = await boot.credentials.resolve(provider);
  if (resolved.problem) throw new Refusal(resolved.problem);
  const key = resolved.key ?? "";
  const shown = shownHeaders(provider);
  const secrets = [
    [hiddenKey, key],
    ...Object.entries(resolved.extras).map(([name, value]) => [hiddenExtra(name), value]),
  ];
  const filled = (text: string, write = (secret: string) => secret) =>
    secrets.reduce(
      (before, [mark = "", secret = ""]) =>
        before.replaceAll(mark, write(secret)).replaceAll(encodeURIComponent(mark), write(secret)),
      text,
    );
  const headers = Object.fromEntries(
    Object.entries(edited.headers).map(([name, value]) => [
      name,
      shown[name] === value ? (resolved.headers[name] ?? value) : filled(value),
    ]),
  );
  const url = filled(edited.url, encodeURIComponent);
  const body = filled(edited.body, (secret) => JSON.stringify(secret).slice(1, -1));
  return rawAnswer(
    { method: dispatch.request.method, url, headers, ...(body === "" ? {} : { body }) },
    provider.limits,
    resolved.secrets,
    resolved.way,
    signal,
  );
}
