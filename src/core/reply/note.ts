import { z } from "zod";

/** Something odd about a dispatch. */
export const dispatchNoteSchema = z.discriminatedUnion("kind", [
  /** A count that is no number of tokens: the usage is estimated without it. */
  z.object({ kind: z.literal("count-left-out"), count: z.string(), found: z.string() }),
  /** Events that are not JSON and that no rule reads: how many, and how the first begins. */
  z.object({ kind: z.literal("passed-over"), count: z.int(), found: z.string() }),
  /** Text so far that changed what it had said: how often, how it went on at first, and how it did then. */
  z.object({ kind: z.literal("mended"), count: z.int(), was: z.string(), is: z.string() }),
  /** A picture of the reply that is none that is taken, and why. */
  z.object({ kind: z.literal("no-picture"), why: z.string() }),
  /** A guard took something out of the answer or refused it, so that its bytes are not kept. */
  z.object({ kind: z.literal("guarded") }),
  /** The answer held a secret in pieces or in another writing, so that its bytes are not kept. */
  z.object({ kind: z.literal("secret-in-pieces") }),
]);
export type DispatchNote = z.infer<typeof dispatchNoteSchema>;
