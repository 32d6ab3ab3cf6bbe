import { z } from "zod";

/**
 * What stands for the beginning of a context that was sent. As far as the next one begins the same, a provider's cache
 * can hold it.
 */
export const leadSchema = z.object({
  /** The parts that stood before the line, each with what stands for what it said. */
  parts: z.array(z.tuple([z.string(), z.string()])),
  /** The visitor's messages of pinned turns that were carried apart from the newest. */
  pins: z.array(z.string()),
  /** What stands for the first message that was remembered, where some was; and the message that was answered. */
  first: z.string().nullable(),
  last: z.string(),
});
export type Lead = z.infer<typeof leadSchema>;
