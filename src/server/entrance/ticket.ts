import type { HasSigner } from "../security/secret";
import type { HasTokens } from "./token-store";

/** Milliseconds within which a ticket lets in. */
const lasts = 10 * 60 * 1000;

/** Under what a ticket was given. */
export interface LetIn {
  /** The token under which the reply was asked for; what is read by the ticket ends when that is revoked. */
  token: string | undefined;
  /** Where it was asked for, which says how much its reader is told. */
  by: "page" | "endpoints";
}

/** What lets a reader that can't send headers, such as a browser's EventSource, read one reply for a while. */
export function ticketFor({ signer }: HasSigner, reply: string, { token, by }: LetIn, now: number): string {
  return signer.sign(`ticket ${reply} ${now + lasts} ${by} ${token ?? ""}`);
}

/** Under what a ticket lets its bearer read a reply; undefined where it lets in no more. */
export function letInBy(
  { signer, tokens }: HasTokens & HasSigner,
  ticket: string,
  reply: string,
  now: number,
): LetIn | undefined {
  const [kind, of, until, by, token] = signer.open(ticket)?.split(" ") ?? [];
  if (kind !== "ticket" || of !== reply || Number(until) <= now) return undefined;
  if (token && !tokens.isGood(token)) return undefined;
  return { token: token || undefined, by: by === "page" ? "page" : "endpoints" };
}
