import { z } from "zod";
import { rawAnswerSchema, shownHeadersSchema } from "./providers";
import { problemSchema, usageSchema } from "./replies";

const arrival = z.tuple([z.number(), z.int()]);

export const sentRequestSchema = z.object({
  method: z.string(),
  url: z.string(),
  headers: z.record(z.string(), z.string()),
  body: z.string(),
});
export type SentRequest = z.infer<typeof sentRequestSchema>;

/** Something odd about a dispatch. */
export const dispatchNoteSchema = z.discriminatedUnion("kind", [
  /** A count that is no number of tokens: the usage is estimated without it. */
  z.object({ kind: z.literal("count-left-out"), count: z.string(), found: z.string() }),
  /** The answer held a secret in pieces or in another writing, so that its bytes are not kept. */
  z.object({ kind: z.literal("secret-in-pieces") }),
]);
export type DispatchNote = z.infer<typeof dispatchNoteSchema>;

/** A dispatch as its drawer shows it. */
export const dispatchSchema = z.object({
  id: z.string(),
  reply: z.string(),
  attempt: z.int(),
  provider: z.string(),
  model: z.string(),
  startedAt: z.int(),
  /** Milliseconds from the start to the end; null while it is under way. */
  ms: z.int().nullable(),
  /** The key in it is hidden. */
  request: sentRequestSchema,
  /** The same as a command, with the key as an environment variable. */
  curl: z.string(),
  status: z.int().nullable(),
  headers: z.record(z.string(), z.string()),
  limits: z.array(
    z.object({ of: z.string(), left: z.string(), most: z.string().optional(), resets: z.string().optional() }),
  ),
  /** Why it ended: the reason, or the problem. */
  end: z.string().nullable(),
  problem: problemSchema.nullable(),
  usage: usageSchema.nullable(),
  notes: z.array(dispatchNoteSchema),
  ledger: z.object({
    entries: z.array(
      z.object({
        part: z.string(),
        message: z.string().optional(),
        /** The beginning of its text. */
        text: z.string(),
        tokens: z.int(),
        carried: z.boolean(),
        why: z.string(),
      }),
    ),
    tokens: z.int(),
    window: z.int(),
  }),
  /** What arrived, with what was read from it; empty once the bytes were thinned out. */
  arrivals: z.array(z.object({ at: z.number(), text: z.string(), read: z.array(z.string()) })),
  isThinned: z.boolean(),
  /** Bytes of the answer. */
  bytes: z.int(),
  text: z.string(),
  thought: z.string(),
  verdict: z.object({ kind: z.string(), saying: z.string() }),
  reader: z.array(arrival).nullable(),
});
export type Dispatch = z.infer<typeof dispatchSchema>;

/** The attempts of a reply, and what all dispatches take. */
export const dispatchesSchema = z.object({
  dispatches: z.array(dispatchSchema),
  kept: z.object({ count: z.int(), bytes: z.int() }),
});

/** A request that is sent once more, changed or not; its address stays with the provider. */
export const sendAgainSchema = z.strictObject({
  url: z.url({ protocol: /^https?$/, error: "is not an http or https address" }),
  headers: shownHeadersSchema,
  body: z.string().max(1_000_000),
});
export const sentAgainSchema = rawAnswerSchema;

/** Milliseconds after the reader asked, and the number of characters of text, of each arrival. */
export const readerArrivalsSchema = z.strictObject({ arrivals: z.array(arrival).max(20_000) });

/** Which dispatches are to be let go of their bytes. */
export const thinSchema = z.strictObject({ olderThanDays: z.number().min(0).max(10_000) });
export const thinnedSchema = z.object({ thinned: z.int() });
