import { z } from "zod";

/** How replies ended, as one filters by it. */
export const endings = ["complete", "cut", "stopped", "refused", "failed"] as const;
export type Ending = (typeof endings)[number];

const moment = z.coerce.number().int().min(0).max(8.64e15);

/** Which conversations of an app are wanted; a member that is not there wants them all. */
export const filterSchema = z.object({
  origin: z.enum(["bench", "page", "http", "terminal", "job", "imported"]).optional(),
  /** The name that the front end gave itself. */
  client: z.string().max(100).optional(),
  /** A provider and a model, with a space between: one reply at least is by it. What is said of a reply is so of one and the same. */
  model: z.string().max(300).optional(),
  /** A reply was made by this revision. */
  revision: z.coerce.number().int().min(1).max(1e9).optional(),
  /** A reply ended so. */
  ended: z.enum(endings).optional(),
  /** Touched at this moment or later, and before that one; epoch milliseconds. */
  since: moment.optional(),
  until: moment.optional(),
  /** Cost more than so much. */
  over: z.coerce.number().min(0).max(1e9).optional(),
  /** A reply was marked so, by the visitor or the developer. */
  rated: z.enum(["good", "bad"]).optional(),
  tag: z.string().max(60).optional(),
  /** Those that were deleted and can be brought back, instead of those that are there. */
  deleted: z.literal("yes").optional(),
  /** What is spoken of, as it is typed. */
  words: z.string().max(300).optional(),
});
export type Filter = z.infer<typeof filterSchema>;
