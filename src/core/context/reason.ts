import { z } from "zod";

/** Why a part of a context is carried, or not; the interface has the words. */
export const reasonSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("prompt") }),
  z.object({ kind: z.literal("no-prompt") }),
  /** The message that is answered. */
  z.object({ kind: z.literal("newest") }),
  /** The memory policy keeps its turn, or not. */
  z.object({ kind: z.literal("remembered") }),
  z.object({ kind: z.literal("not-remembered") }),
  /** It stands above a clear. */
  z.object({ kind: z.literal("cleared") }),
  /** Its turn has no answer. */
  z.object({ kind: z.literal("unanswered") }),
]);
export type Reason = z.infer<typeof reasonSchema>;
