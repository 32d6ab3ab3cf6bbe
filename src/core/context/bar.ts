import type { Reach, Room } from "./reach";

/** A stretch of a context window: what fills it, and with how many tokens. */
export interface Stretch {
  kind: string;
  tokens: number;
}

/** What a context window is filled with, in the order in which it is sent, and the room that is kept for the reply. */
export function barOf({ parts }: Pick<Reach, "parts">, { maxOutput = 0 }: Room): Stretch[] {
  const stretches: Stretch[] = [];
  for (const { kind, tokens, carried } of [...parts, { kind: "reply", tokens: maxOutput, carried: true }]) {
    const last = stretches.at(-1);
    if (!carried || tokens === 0) continue;
    // several parts of a kind that follow each other are one
    if (last?.kind === kind) last.tokens += tokens;
    else stretches.push({ kind, tokens });
  }
  return stretches;
}
