import { z } from "zod";
import { sumSchema } from "../conversation/sum";

/** A line drawn in a conversation: nothing above it is carried. */
export const clearSchema = z.object({
  /** The reply after which it stands. */
  message: z.string(),
  /** The turn that ends with that. */
  turn: z.int(),
  /** What the answered turns above it hold. */
  soFar: sumSchema,
});
export type Clear = z.infer<typeof clearSchema>;
