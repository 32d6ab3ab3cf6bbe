import { z } from "zod";
import { dataSchema, pictureSchema, toolCallSchema } from "../conversation/pieces";
import { type Problem, problemSchema } from "../problem/problem";
import { citedSchema } from "../sources/found";

/** Why a reply ended, in our words; a wire profile maps a provider's words to these. */
export const endReasons = ["complete", "length", "stop-word", "tools", "refused", "stopped"] as const;
export type EndReason = (typeof endReasons)[number];

const count = z.int();

/** Tokens as the provider counted them, or as estimated where it did not say. */
export const tokenCountsSchema = z.object({
  /** Tokens of everything that was sent. */
  input: count,
  /** Tokens of the reply. */
  output: count,
  /** The part of `input` that the provider had in its cache. */
  cachedInput: count.optional(),
  /** The part of `input` that the provider put into its cache. */
  cacheWrite: count.optional(),
  /** The part of `output` that was reasoning. */
  thought: count.optional(),
});
export type TokenCounts = z.infer<typeof tokenCountsSchema>;

/** What a reply cost: counts, whether they are only estimated, and the price in `currency`. */
export const usageSchema = tokenCountsSchema.extend({
  estimated: z.boolean(),
  price: z.number(),
  currency: z.string(),
  /** Whether a price of it is not set, so that `price` leaves that out. */
  isUnpriced: z.literal(true).optional(),
});
export type Usage = z.infer<typeof usageSchema>;

/** A part of a tool call as it is read: fragments of one `block` belong together. */
export interface ToolFragment {
  block: string;
  id?: string;
  name?: string;
  /** A part of the arguments' JSON. */
  arguments?: string;
}

/** A source that a provider names, as far as it does: each member up to 2,000 characters. */
export const namedSourceSchema = z.object({
  title: z.string().optional(),
  address: z.string().optional(),
  text: z.string().optional(),
});
export type NamedSource = z.infer<typeof namedSourceSchema>;

/** What a decoder reads from a provider's bytes. `take` counts from 0; null is for what concerns all of the call. */
export type ReadEvent =
  | { event: "text"; take: number; data: { text: string } }
  | { event: "thought"; take: number; data: { text: string } }
  | { event: "tool"; take: number; data: ToolFragment }
  | { event: "carry"; take: number; data: { value: unknown } }
  | { event: "counts"; take: number | null; data: Partial<TokenCounts> }
  /** A count that is none, and was left out; `found` is what stood there. */
  | { event: "left-out"; take: number | null; data: { count: keyof TokenCounts; found: string } }
  /** What the provider calls the model that answers. */
  | { event: "version"; take: null; data: { version: string } }
  /** A source that the provider names for what it says. */
  | { event: "source"; take: number; data: NamedSource }
  /** An event of a stream that no rule reads, since it is not JSON: its beginning. */
  | { event: "passed-over"; take: null; data: { found: string } }
  /** Text so far of which what was said before came otherwise: how it went on then, and how it does now. */
  | { event: "mended"; take: number; data: { was: string; is: string } }
  /** A picture of the reply, its bytes in base64 as they came. */
  | { event: "picture"; take: number; data: { base64: string } }
  | { event: "end"; take: number; data: { reason: EndReason } }
  | { event: "problem"; take: number | null; data: Problem };

/** A provider by its lasting name, and a model of it. */
export const candidateSchema = z.object({ provider: z.string(), model: z.string() });
export type Candidate = z.infer<typeof candidateSchema>;

/** Who answers, and where the reply belongs; always the first event of a reply. */
export const replyHeadSchema = z.object({
  reply: z.string(),
  conversation: z.string(),
  /** The visitor's message that this replies to. */
  message: z.string(),
  revision: z.int(),
  ...candidateSchema.shape,
  /** The reply that this one goes on from. */
  continues: z.string().optional(),
  /** Whether the preview made it, and not the live revision. */
  preview: z.literal(true).optional(),
});
export type ReplyHead = z.infer<typeof replyHeadSchema>;

/** A further attempt to get the reply: after one that failed before any text, or one that does not fit its schema. */
export const nextAttemptSchema = candidateSchema.extend({
  /** Counted from 1. */
  attempt: z.int(),
  /** Seconds until it is made. */
  after: z.number(),
  because: problemSchema,
  /** Whether what was said so far is taken back, since it is said anew. */
  anew: z.literal(true).optional(),
});
export type NextAttempt = z.infer<typeof nextAttemptSchema>;

const text = z.object({ text: z.string() });
const numbered = z.object({
  /** The place in the reply, counted from 1. */
  id: z.int(),
});

/** The events of a reply, by what their beginning, a further attempt and what it cost are told as. */
export function eventSchema<H extends z.ZodType, A extends z.ZodType, U extends z.ZodType>(
  head: H,
  attempt: A,
  usage: U,
) {
  return z.discriminatedUnion("event", [
    numbered.extend({ event: z.literal("reply"), data: head }),
    numbered.extend({ event: z.literal("text"), data: text }),
    numbered.extend({ event: z.literal("thought"), data: text }),
    /** A call of a tool, and again with its answer: what is known of it now, by its round and its id. */
    numbered.extend({ event: z.literal("tool"), data: toolCallSchema }),
    /** A passage that it cites, when it does so for the first time: the mark stands in its text. */
    numbered.extend({ event: z.literal("source"), data: citedSchema }),
    /** A picture of the reply, which is kept under its file. */
    numbered.extend({ event: z.literal("picture"), data: pictureSchema }),
    /** The reply as data, as far as it goes now; it takes the place of the data before. */
    numbered.extend({ event: z.literal("data"), data: dataSchema }),
    numbered.extend({ event: z.literal("attempt"), data: attempt }),
    numbered.extend({ event: z.literal("usage"), data: usage }),
    numbered.extend({ event: z.literal("end"), data: z.object({ reason: z.enum(endReasons) }) }),
    numbered.extend({ event: z.literal("problem"), data: problemSchema }),
  ]);
}

/** One event of a reply as its reader gets it: a line of NDJSON, or the parts of a server-sent event. */
export const numberedEventSchema = eventSchema(replyHeadSchema, nextAttemptSchema, usageSchema);
export type NumberedEvent = z.infer<typeof numberedEventSchema>;

type Unnumbered<E> = E extends unknown ? Omit<E, "id"> : never;

/** An event of a reply before it has its place. */
export type ReplyEvent = Unnumbered<NumberedEvent>;

/** What a take says: the events of which its pieces are made, what it cites, and what it thinks. */
export type SaidEvent = Extract<ReplyEvent, { event: "text" | "thought" | "tool" | "picture" | "data" | "source" }>;

/** How a reply ends. */
export type LastEvent = Extract<ReplyEvent, { event: "end" | "problem" }>;

/** Whether an event is the last of its reply. */
export function isLast(event: { event: string }): boolean {
  return event.event === "end" || event.event === "problem";
}
