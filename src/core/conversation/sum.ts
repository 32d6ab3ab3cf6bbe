import { z } from "zod";
import { added, type Counts, holdingSchema, noCounts } from "../tokens/counts";

/** What the answered turns of a line hold together. */
export const sumSchema = holdingSchema.extend({ turns: z.int() });
export type Sum = z.infer<typeof sumSchema>;

/** The sum of a line that has not begun. */
export const noSum: Sum = { counts: noCounts, messages: 0, turns: 0 };

/** The sum with one more turn: what its messages hold. */
export function withTurn({ counts, messages, turns }: Sum, turn: readonly Counts[]): Sum {
  return { counts: turn.reduce(added, counts), messages: messages + turn.length, turns: turns + 1 };
}
