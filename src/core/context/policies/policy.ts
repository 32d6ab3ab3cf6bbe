import type { z } from "zod";

/** A turn as a policy is asked about it, from the newest upwards. */
export interface TurnBack {
  /** 1 for the newest answered turn. */
  back: number;
  /** Tokens of this turn and of all that are newer, for the model that is to answer. */
  tokens: number;
}

/** A way to remember: what a dispatch carries of the turns before it. One record, in a file of its own. */
export interface Policy<S extends z.ZodType = z.ZodType> {
  /** What is kept of it in a revision. */
  schema: S;
  /**
   * Whether a turn is carried, asked from the newest upwards until one is not; what is above that is left out
   * without being read. Not there where every turn is carried, however many there are.
   */
  keeps?: (memory: z.output<S>, turn: TurnBack) => boolean;
}
