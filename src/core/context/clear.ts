import { z } from "zod";
import { sumSchema } from "../conversation/sum";
import { type Candidate, candidateSchema } from "../reply/events";
import type { Memory } from "./policies/policies";

/** A line drawn in a conversation: nothing above it is carried. */
export const clearSchema = z.object({
  /** The reply after which it stands. */
  message: z.string(),
  /** The turn that ends with that. */
  turn: z.int(),
  /** What the answered turns above it hold. */
  soFar: sumSchema,
  /** Whose memory alone is cleared, where each model remembers only its own; null for that of all. */
  by: candidateSchema.nullable(),
});
export type Clear = z.infer<typeof clearSchema>;

/** The clear that holds for a model. @param clears those of its line, the last first */
export function clearFor(clears: readonly Clear[], memory: Memory, { provider, model }: Candidate): Clear | null {
  const holds = ({ by }: Clear) =>
    by === null || (memory.apart === true && by.provider === provider && by.model === model);
  return clears.find(holds) ?? null;
}
