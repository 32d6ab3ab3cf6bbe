import { z } from "zod";

/** Where a document comes from. */
export const originSchema = z.discriminatedUnion("kind", [
  /** A file that was handed in, by its name. */
  z.object({ kind: z.literal("file"), name: z.string() }),
  /** A file in a folder of the developer's, which is watched; `file` is its path in there. */
  z.object({ kind: z.literal("folder"), folder: z.string(), file: z.string() }),
  z.object({
    kind: z.literal("address"),
    url: z.string(),
    /** Whether addresses of this machine may be called for it. */
    allowsThisMachine: z.literal(true).optional(),
  }),
]);
export type Origin = z.infer<typeof originSchema>;

/** A part of a document that could not be read: which, from 1, and why. */
export const unreadPartSchema = z.object({ part: z.int(), why: z.enum(["no-text", "broken"]) });
export type UnreadPart = z.infer<typeof unreadPartSchema>;

/** Bytes that a document may have. */
export const largestDocument = 50 * 1024 * 1024;
/** Characters that may be read of one. */
export const longestDocument = 20_000_000;
