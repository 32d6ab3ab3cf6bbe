import type { Home } from "../home";

/** Milliseconds within which a ticket lets in. */
const lasts = 10 * 60 * 1000;

/** What lets a reader that can't send headers, such as a browser's EventSource, read one reply for a while. */
export function ticketFor({ signer }: Pick<Home, "signer">, reply: string, now: number): string {
  return signer.sign(`ticket ${reply} ${now + lasts}`);
}

/** Whether a ticket lets its bearer read a reply. */
export function lets({ signer }: Pick<Home, "signer">, ticket: string, reply: string, now: number): boolean {
  const [kind, of, until] = signer.open(ticket)?.split(" ") ?? [];
  return kind === "ticket" && of === reply && Number(until) > now;
}
