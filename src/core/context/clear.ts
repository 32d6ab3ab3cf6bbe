import type { Sum } from "../conversation/sum";

/** A line drawn in a conversation: nothing above it is carried. */
export interface Clear {
  /** The reply after which it stands. */
  message: string;
  /** The turn that ends with that. */
  turn: number;
  /** What the answered turns above it hold. */
  soFar: Sum;
}
