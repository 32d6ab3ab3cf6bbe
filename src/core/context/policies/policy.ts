import { z } from "zod";
import { mostTokens } from "../../tokens/count";

/** What every policy can be told beside its own. */
export const common = {
  /** How turns are carried: as messages where nothing is said, or as text in the system prompt. */
  as: z.literal("text").optional(),
  /** Whether each model remembers only what it answered itself. */
  apart: z.literal(true).optional(),
};

/** The most tokens that all that is remembered may have: turns, pins and summary together. */
export const within = z.int().min(1).max(mostTokens).optional();

/** How much of what is newest a policy carries; what is not said is not limited. */
export interface Most {
  turns?: number;
  messages?: number;
  /** Of all that is remembered. */
  tokens?: number;
}

/**
 * A way to remember: what a dispatch carries of the turns before it. One record, in a file of its own; what each does
 * is written in docs/memory.md.
 */
export interface Policy<S extends z.ZodType = z.ZodType> {
  /** What is kept of it in a revision. */
  schema: S;
  most(memory: z.output<S>): Most;
  /** Whether a call is rather refused than a turn left out. */
  isWhole?: true;
  /** Where older turns are carried in a summary: how many of the newest are carried in full. */
  inFull?(memory: z.output<S>): number;
}
