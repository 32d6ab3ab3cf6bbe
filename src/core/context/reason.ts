import { z } from "zod";

const by = {
  /** Tokens that it would be too many. */
  by: z.int(),
};

/** Why a part of a context is carried, or not; the interface has the words. */
export const reasonSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("prompt") }),
  z.object({ kind: z.literal("no-prompt") }),
  /** Tools that the model may ask for. */
  z.object({ kind: z.literal("offered") }),
  /** The schema that the reply has to fit. */
  z.object({ kind: z.literal("typed") }),
  /** What the reply that is under way said and got from tools so far. */
  z.object({ kind: z.literal("under-way") }),
  /** The API has no place for pictures, and its profile leaves them out. */
  z.object({ kind: z.literal("no-place") }),
  /** A fixed turn before the conversation. */
  z.object({ kind: z.literal("opening") }),
  /** A summary of older turns. */
  z.object({ kind: z.literal("summary") }),
  /** No summary of the older turns is there yet, or none that fits the line. */
  z.object({ kind: z.literal("no-summary") }),
  /** The words that explain passages and their marks. */
  z.object({ kind: z.literal("explains") }),
  /** A passage that the message found. */
  z.object({ kind: z.literal("found") }),
  /** `most` passages are carried, and better ones were found. */
  z.object({ kind: z.literal("beyond-best"), most: z.int() }),
  /** It has too little to do with the message. */
  z.object({ kind: z.literal("below-bar") }),
  /** All passages together would have more tokens than they may. */
  z.object({ kind: z.literal("over-room"), ...by }),
  /** A passage that is carried says the same, or has it in it. */
  z.object({ kind: z.literal("said-already"), mark: z.string() }),
  /** The message that is answered. */
  z.object({ kind: z.literal("newest") }),
  z.object({ kind: z.literal("remembered") }),
  /** It is carried, wherever it stands. */
  z.object({ kind: z.literal("pinned") }),
  /** A summary says it. */
  z.object({ kind: z.literal("summarised") }),
  /** The policy carries no turns. */
  z.object({ kind: z.literal("forgotten") }),
  /** It is older than the last `most` turns, or messages. */
  z.object({ kind: z.literal("older"), most: z.int(), of: z.enum(["turns", "messages"]) }),
  /** One of its messages is among the last `most`, and a turn is not cut in two. */
  z.object({ kind: z.literal("parted"), most: z.int() }),
  /** What is remembered would have more tokens than it may. */
  z.object({ kind: z.literal("over-budget"), ...by }),
  /** The context window has no room for it. */
  z.object({ kind: z.literal("over-window"), ...by }),
  /** Another model answered, and each has a memory of its own. */
  z.object({ kind: z.literal("apart") }),
  /** It stands above a clear. */
  z.object({ kind: z.literal("cleared") }),
  /** Its turn has no answer. */
  z.object({ kind: z.literal("unanswered") }),
]);
export type Reason = z.infer<typeof reasonSchema>;
