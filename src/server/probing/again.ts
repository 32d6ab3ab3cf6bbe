import type { SentRequest } from "@/contract/dispatches";
import type { RawAnswer } from "@/contract/tries";
import { hiddenExtra, hiddenKey } from "@/core/wire/encode";
import { addressOf } from "../exchange/connection";
import { shownHeaders } from "../exchange/credentials";
import type { Outgoing } from "../exchange/outgoing";
import { ownValues } from "../exchange/own-values";
import { Refusal, refuse } from "../ground/refusal";
import type { Filling } from "../making/types";
import type { StoredProvider } from "../providers/provider-store";
import { type TryNeeds, tryOut } from "./try";

/** What of the process is used here. */
export type AgainNeeds = TryNeeds;

/**
 * Sends the request of a dispatch once more, as it was edited, apart from the conversation. The
 * key goes along only to the provider's own address.
 * @throws {Refusal}
 */
export async function sendAgain(
  boot: AgainNeeds,
  id: string,
  edited: Omit<SentRequest, "method">,
  signal: AbortSignal,
): Promise<RawAnswer> {
  const dispatch = boot.dispatches.byId(id) ?? refuse("not-found", `There is no dispatch ${id}.`);
  const provider =
    (dispatch.providerId && boot.providers.byId(dispatch.providerId)) ||
    refuse("conflict", `${dispatch.provider} is not wired any more.`);
  const { origin } = new URL(addressOf(provider, { path: "" }, ownValues(provider)));
  const wanted = new URL(edited.url);
  if (wanted.username !== "" || wanted.password !== "")
    refuse("bad-request", "The address holds a name or a password, which no address of a call may.", {
      advice: "Take it out; the provider's credentials go along by themselves.",
    });
  if (wanted.origin !== origin)
    refuse("bad-request", `The request can be sent to ${origin} only, since it carries the key of ${provider.name}.`, {
      advice: "Change the path, the headers or the body; wire another provider for another address.",
    });
  const { model } = dispatch;
  const { method } = dispatch.request;
  const { answer } = await tryOut(
    boot,
    provider,
    {
      purpose: "again",
      owner: id,
      model,
      messages: [],
      streams: true,
      request: (_speaker, filling) => filledIn({ ...edited, method }, provider, filling),
    },
    signal,
  );
  const { problem, status } = answer;
  if (status === null && problem && (problem.kind === "misconfigured" || problem.kind === "unauthorised"))
    throw new Refusal(problem);
  return answer;
}

/** An edited request with secrets in the places of their marks. */
function filledIn(
  edited: SentRequest,
  provider: StoredProvider,
  { key = "", extras, headers }: Filling,
): Outgoing & { body?: string } {
  const marks = [[hiddenKey, key], ...Object.entries(extras).map(([name, value]) => [hiddenExtra(name), value])];
  const filled = (text: string, write = (secret: string) => secret) =>
    marks.reduce(
      (before, [mark = "", secret = ""]) =>
        before.replaceAll(mark, write(secret)).replaceAll(encodeURIComponent(mark), write(secret)),
      text,
    );
  const shown = shownHeaders(provider);
  const { href } = new URL(filled(edited.url, encodeURIComponent));
  const body = filled(edited.body, (secret) => JSON.stringify(secret).slice(1, -1));
  return {
    method: edited.method,
    url: href,
    headers: Object.fromEntries(
      Object.entries(edited.headers).map(([name, value]) => [
        name,
        shown[name] === value ? (headers[name] ?? value) : filled(value),
      ]),
    ),
    body: body === "" ? undefined : body,
  };
}
