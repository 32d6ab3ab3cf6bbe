import type { Home } from "../home";

/** Milliseconds within which a ticket lets in. */
const lasts = 10 * 60 * 1000;

/** What lets a reader that can't send headers, such as a browser's EventSource, read one reply for a while. */
export function ticketFor(
  { signer }: Pick<Home, "signer">,
  reply: string,
  token: string | undefined,
  now: number,
): string {
  return signer.sign(`ticket ${reply} ${now + lasts} ${token ?? ""}`);
}

/** What a ticket lets its bearer read a reply under: the token, where it was given under one that is still good; undefined where it lets in no more. */
export function letInBy(
  { signer, tokens }: Pick<Home, "signer" | "tokens">,
  ticket: string,
  reply: string,
  now: number,
): { token: string | undefined } | undefined {
  const [kind, of, until, token] = signer.open(ticket)?.split(" ") ?? [];
  if (kind !== "ticket" || of !== reply || Number(until) <= now) return undefined;
  if (token && !tokens.isGood(token)) return undefined;
  return { token: token || undefined };
}
