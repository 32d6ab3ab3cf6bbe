import { z } from "zod";
import type { ProblemKind } from "../problem/problem";
import { type Judged, type Outcome, outcomes } from "./outcome";
import { figuresSchema, sentTurnSchema } from "./seen";

/** Problems of a call that say nothing about what an app would have answered. */
const silencing = new Set<ProblemKind>([
  "unreachable",
  "broken-off",
  "bad-reply",
  "no-recording",
  "unauthorised",
  "not-allowed",
  "unknown-model",
  "misconfigured",
  "timed-out",
  "rate-limited",
  "overloaded",
  "at-capacity",
  "over-limit",
  "interrupted",
  "closing",
  "no-storage",
  "internal",
]);

/** Whether a problem leaves a trial without an answer to judge. */
export function isSilencing(kind: ProblemKind): boolean {
  return silencing.has(kind);
}

/** Where what an expectation needs was to be had. */
export const neededSchema = z.discriminatedUnion("kind", [
  /** An earlier turn says it, and that did not go out. */
  z.object({ kind: z.literal("not-sent"), need: z.string(), turn: z.int(), sent: sentTurnSchema }),
  /** It went out, and was not used: in a turn, or in the prompt. */
  z.object({ kind: z.literal("not-used"), need: z.string(), turn: z.int().nullable() }),
]);
export type Needed = z.infer<typeof neededSchema>;

export const judgedSchema = z.object({
  line: z.int(),
  outcome: z.enum(outcomes),
  saw: z.json(),
  /** A judge's opinion, which says nothing about how the trial came out. */
  isOpinion: z.literal(true).optional(),
  needed: neededSchema.optional(),
});

/** A reply of a trial: what was said, and how it was judged. */
export const trialReplySchema = z.object({
  /** The line of the check on which its question stands, and its turn. */
  line: z.int(),
  turn: z.int(),
  message: z.string(),
  text: z.string(),
  figures: figuresSchema,
  /** The making that it came from, with its dispatches; null where nothing was sent. */
  making: z.string().nullable(),
  judged: z.array(judgedSchema),
});
export type TrialReply = z.infer<typeof trialReplySchema>;

/** What came of a trial. */
export const trialResultSchema = z.object({
  outcome: z.enum(outcomes),
  /** Turns that were there before the first question. */
  turnsBefore: z.int(),
  replies: z.array(trialReplySchema),
  /** What was expected of all replies together. */
  whole: z.array(judgedSchema),
});
export type TrialResult = z.infer<typeof trialResultSchema>;

/** How a trial came out: broken where anything broke, silent where anything could not be judged, else held. */
export function outcomeOf(judged: readonly Pick<Judged, "outcome" | "isOpinion">[], isSilent: boolean): Outcome {
  if (judged.some(({ outcome }) => outcome === "broke")) return "broke";
  const isUnjudged = judged.some(({ outcome, isOpinion }) => outcome === "silent" && !isOpinion);
  return isSilent || isUnjudged ? "silent" : "held";
}
