import type { Reach, Room } from "./reach";

/** A stretch of a context window: what fills it, and with how many tokens. */
export interface Stretch {
  kind: string;
  tokens: number;
}

/** What a context window is filled with, in the order in which it is sent, and the room that is kept for the reply. */
export function barOf({ parts }: Pick<Reach, "parts">, { maxOutput = 0 }: Room): Stretch[] {
  const carried = parts.filter((part) => part.carried).map(({ kind, tokens }) => ({ kind, tokens }));
  return [...carried, { kind: "reply", tokens: maxOutput }].filter(({ tokens }) => tokens > 0);
}
