import { z } from "zod";
import { type Candidate, candidateSchema } from "../reply/events";
import { countsSchema } from "../tokens/counts";

/** A summary of older turns of a line as the reach sees it: without its text. */
export const summarySchema = z.object({
  id: z.string(),
  /** The last turn that it covers: with that turn's reply, and all above it down from its clear. */
  turn: z.int(),
  counts: countsSchema,
  /** The reply after which the line was cleared, above which it covers nothing; null where it was not. */
  clear: z.string().nullable(),
  /** Whose turns it covers, where each model remembers only its own; null where it covers those of all. */
  by: candidateSchema.nullable(),
  /** The visitor's messages whose turns it does not cover, since they were pinned. */
  leftOut: z.array(z.string()),
});
export type SummaryAtHand = z.infer<typeof summarySchema>;

/** What a summary has to cover. */
export interface ToCover {
  /** The last turn that may be covered. */
  upTo: number;
  clear: string | null;
  by: Candidate | null;
  /** The pinned turns, by the visitor's message: what is carried in full is not said in short as well. */
  pinned: readonly { id: string; turn: number }[];
}

/**
 * The newest summary of a line that covers exactly what is to be covered, up to some turn.
 * @param summaries those of the line, the newest first
 */
export function fittingSummary<S extends SummaryAtHand>(summaries: readonly S[], toCover: ToCover): S | null {
  const { upTo, clear, by, pinned } = toCover;
  return (
    summaries.find((each) => {
      const left = pinned.filter(({ turn }) => turn <= each.turn);
      return (
        each.turn <= upTo &&
        each.clear === clear &&
        each.by?.provider === by?.provider &&
        each.by?.model === by?.model &&
        each.leftOut.length === left.length &&
        left.every(({ id }) => each.leftOut.includes(id))
      );
    }) ?? null
  );
}
