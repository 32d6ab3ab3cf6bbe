import { z } from "zod";
import { added, type Counts, countsSchema, noCounts, rawTokens, tokensPerMessage } from "../tokens/counts";

/** What the answered turns of a line hold together. */
export const sumSchema = z.object({ counts: countsSchema, messages: z.int(), turns: z.int() });
export type Sum = z.infer<typeof sumSchema>;

/** The sum of a line that has not begun. */
export const noSum: Sum = { counts: noCounts, messages: 0, turns: 0 };

/** The sum with one more turn: what its messages hold. */
export function withTurn({ counts, messages, turns }: Sum, turn: readonly Counts[]): Sum {
  return { counts: turn.reduce(added, counts), messages: messages + turn.length, turns: turns + 1 };
}

/** The estimated tokens of a sum, the borders of its messages included, before anything is known of a model. */
export function rawTokensOf({ counts, messages }: Pick<Sum, "counts" | "messages">): number {
  return rawTokens(counts) + messages * tokensPerMessage;
}
