import { z } from "zod";
import { type Problem, problem, problemKinds } from "@/core/problem/problem";
import { endReasons } from "@/core/reply/events";
import { replyStates } from "@/core/reply/reply";
import { type Parsed, parse } from "./parse";

const words = z.string().refine((text) => text.trim() !== "", "is empty; send some text");
const pieces = z.array(z.strictObject({ kind: z.literal("text"), text: words })).min(1);

const messageCall = z.strictObject({
  /** Text, or pieces of it. */
  message: z.union([words, pieces], { error: "is not text that holds something, nor a list of text pieces" }),
  /** The conversation to go on with; a new one without it. */
  conversation: z.string().optional(),
  /** The message to branch after, instead of going on from the tip. */
  after: z.string().optional(),
  /** Values of the prompt's variables. */
  variables: z.record(z.string(), z.string()).optional(),
});

const goOnCall = z.strictObject({
  /** A reply that was cut, stopped or interrupted. */
  goOn: z.string(),
});

export type MessageCall = z.infer<typeof messageCall>;
export type GoOnCall = z.infer<typeof goOnCall>;
/** What asks for a reply. */
export type ReplyCall = MessageCall | GoOnCall;

const later: Record<string, string> = {
  again: "Further takes of a reply can't be asked for yet.",
  messages: "Calls that hold their own history are not answered yet.",
  with: "This app does not let callers choose a model or settings yet.",
};

/** Parses the body of a call for a reply. */
export function parseReplyCall(body: unknown): Parsed<ReplyCall> {
  if (typeof body !== "object" || body === null || Array.isArray(body))
    return refused(problem("bad-request", "The body is not a JSON object."));
  for (const [name, detail] of Object.entries(later))
    if (name in body) return refused(problem("not-there-yet", detail, { advice: `Leave out \`${name}\`.` }));
  if ("goOn" in body) return parse(goOnCall, body);
  if (!("message" in body))
    return refused(
      problem("bad-request", "The body holds neither `message` nor `goOn`.", { advice: "Send one of them." }),
    );
  return parse(messageCall, body);
}

function refused(problem: Problem): Parsed<never> {
  return { ok: false, problem };
}

export const usageSchema = z.object({
  input: z.int(),
  output: z.int(),
  cachedInput: z.int().optional(),
  thought: z.int().optional(),
  estimated: z.boolean(),
  price: z.number(),
  currency: z.string(),
});

/** Who answers, and where the reply belongs. */
const made = z.object({
  reply: z.string(),
  conversation: z.string(),
  message: z.string(),
  revision: z.int(),
  provider: z.string(),
  model: z.string(),
});

/** The whole answer to a call that does not stream. */
export const wholeAnswerSchema = made.extend({
  text: z.string(),
  end: z.enum(endReasons),
  usage: usageSchema.optional(),
});
export type WholeAnswer = z.infer<typeof wholeAnswerSchema>;

/** The answer to `Prefer: respond-async`. */
export const acceptedSchema = made.pick({ reply: true, conversation: true, message: true });
export type Accepted = z.infer<typeof acceptedSchema>;

/** A reply as it stands: `cursor` is the id of the last event that `text` holds. */
export const replyStandingSchema = z.object({
  reply: z.string(),
  conversation: z.string(),
  state: z.enum(replyStates),
  text: z.string(),
  cursor: z.int(),
});
export type ReplyStanding = z.infer<typeof replyStandingSchema>;

/** The answer to stopping a reply. */
export const stoppedSchema = z.object({ reply: z.string(), state: z.enum(replyStates) });

const head = made.extend({ continues: z.string().optional() });
const text = z.object({ text: z.string() });
export const problemSchema = z.object({
  kind: z.enum(problemKinds),
  detail: z.string(),
  advice: z.string(),
  retryAfter: z.number().optional(),
});

/** A further attempt, after one that failed before any text. */
export const nextAttemptSchema = z.object({
  attempt: z.int(),
  provider: z.string(),
  model: z.string(),
  after: z.number(),
  because: problemSchema,
});

/** One numbered event of a reply: a line of NDJSON, or the parts of a server-sent event. */
export const numberedEventSchema = z.discriminatedUnion("event", [
  z.object({ id: z.int(), event: z.literal("reply"), data: head }),
  z.object({ id: z.int(), event: z.literal("text"), data: text }),
  z.object({ id: z.int(), event: z.literal("thought"), data: text }),
  z.object({ id: z.int(), event: z.literal("attempt"), data: nextAttemptSchema }),
  z.object({ id: z.int(), event: z.literal("usage"), data: usageSchema }),
  z.object({ id: z.int(), event: z.literal("end"), data: z.object({ reason: z.enum(endReasons) }) }),
  z.object({ id: z.int(), event: z.literal("problem"), data: problemSchema }),
]);

/** One event on the stream of a bench tab: a reply's event, or a word that a list has changed. */
export const benchEventSchema = z.object({ reply: z.string(), conversation: z.string(), event: numberedEventSchema });
export type BenchEvent = z.infer<typeof benchEventSchema>;
