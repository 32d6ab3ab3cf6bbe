import { z } from "zod";
import { type Problem, problem } from "@/core/problem/problem";
import { endReasons, numberedEventSchema, replyHeadSchema, usageSchema } from "@/core/reply/events";
import { replyStates } from "@/core/reply/reply";
import { withSchema } from "@/core/serving/access";
import { call, events, json, jsonBody, lines, nothing } from "./call";
import { type Parsed, parse } from "./parse";

const words = z.string().refine((text) => text.trim() !== "", "is empty; send some text");
const pieces = z.array(z.strictObject({ kind: z.literal("text"), text: words })).min(1);

/** Characters that the value of a variable may have. */
const longestValue = 10_000;
const variables = z.record(
  z.string().max(100),
  z.string().max(longestValue, `has more than ${longestValue} characters`),
);

const messageCall = z.strictObject({
  /** Text, or pieces of it. */
  message: z.union([words, pieces], { error: "is not text that holds something, nor a list of text pieces" }),
  /** The conversation to go on with; a new one without it. */
  conversation: z.string().optional(),
  /** The reply to branch after, instead of going on from the tip; null begins the conversation in another way. */
  after: z.string().nullable().optional(),
  /** Values of those variables of the prompt that a call gives. */
  variables: variables.optional(),
  /** A model or settings that the developer lets callers choose. */
  with: withSchema.optional(),
});

export type MessageCall = z.infer<typeof messageCall>;

/** Messages that a caller may hold; storing them is one write, in which everything else waits for some 60 ms. */
export const mostHeld = 400;

/** A history that its caller holds: the visitor and the app in turn, the visitor first and last. */
const heldCall = z.strictObject({
  messages: z
    .array(z.strictObject({ role: z.enum(["visitor", "app"]), text: words }))
    .min(1)
    .max(mostHeld),
  /** Whether it is kept as a conversation; otherwise all of it is deleted a minute after the reply has ended. */
  store: z.boolean().optional(),
  variables: variables.optional(),
  with: withSchema.optional(),
});
export type HeldCall = z.infer<typeof heldCall>;

const goOnCall = z.strictObject({
  /** A reply that was cut, stopped or interrupted. */
  goOn: z.string(),
});

/** Takes of a reply that can be asked for at once. */
const mostTakes = 10;

const againCall = z.strictObject({
  /** A visitor's message, to which another reply is wanted. */
  again: z.string(),
  /** How many, each a take of its own. */
  count: z.int().min(1).max(mostTakes).optional(),
  with: withSchema.optional(),
});

/** What asks for a reply. */
const replyCallSchema = z.union([messageCall, heldCall, goOnCall, againCall]);
export type ReplyCall = z.infer<typeof replyCallSchema>;

/** Parses the body of a call for a reply. */
export function parseReplyCall(body: unknown): Parsed<ReplyCall> {
  if (typeof body !== "object" || body === null || Array.isArray(body))
    return refused(problem("bad-request", "The body is not a JSON object."));
  if ("goOn" in body) return parse(goOnCall, body);
  if ("again" in body) return parse(againCall, body);
  if ("messages" in body) return parseHeld(body as { messages: unknown });
  if (!("message" in body))
    return refused(
      problem("bad-request", "The body holds neither `message`, `messages`, `again` nor `goOn`.", {
        advice: "Send one of them.",
      }),
    );
  return parse(messageCall, body);
}

function parseHeld(body: { messages: unknown }): Parsed<ReplyCall> {
  const all: unknown[] = Array.isArray(body.messages) ? body.messages : [];
  const system = all.findIndex((each) => (each as { role?: unknown } | null)?.role === "system");
  if (system >= 0)
    return refused(
      problem(
        "bad-request",
        `messages[${system}] is a system message: the app's own prompt goes first, and no other.`,
        {
          advice: "Leave it out. Values for the prompt's variables go into `variables`.",
        },
      ),
    );
  const held = parse(heldCall, body);
  if (!held.ok) return held;
  const { messages } = held.value;
  const wrong = messages.findIndex(({ role }, at) => role !== (at % 2 === 0 ? "visitor" : "app"));
  if (wrong >= 0)
    return refused(
      problem("bad-request", `messages[${wrong}] is the ${messages[wrong]?.role}'s, and it is not their turn.`, {
        advice: "Send what the visitor and the app said in turn, the visitor first.",
      }),
    );
  if (messages.length % 2 === 0)
    return refused(problem("bad-request", "The last message is the app's.", { advice: "End with the visitor's." }));
  return held;
}

function refused(problem: Problem): Parsed<never> {
  return { ok: false, problem };
}

/** Who answers, and where the reply belongs. */
const made = replyHeadSchema.omit({ continues: true });

/** The whole answer to a call that does not stream. */
const wholeAnswerSchema = made.extend({
  text: z.string(),
  end: z.enum(endReasons),
  usage: usageSchema.optional(),
  /** A command that goes on from here. */
  next: z.string(),
});
export type WholeAnswer = z.infer<typeof wholeAnswerSchema>;

/** The answer to `Prefer: respond-async`. */
const acceptedSchema = made.pick({ reply: true, conversation: true, message: true });
export type Accepted = z.infer<typeof acceptedSchema>;

/** The same at the bench, where several takes may have been asked for. */
const acceptedAtBench = acceptedSchema.extend({
  /** The ids of further takes. */
  further: z.array(z.string()),
});

/** The same for a caller, who may read the reply without saying once more who it is. */
const acceptedForCaller = acceptedSchema.extend({
  /** Where a plain EventSource reads it, for some minutes. */
  events: z.string(),
  next: z.string(),
});

/** The answer to a call for several takes: each is read by its own id. */
const takesForCaller = acceptedSchema.omit({ reply: true }).extend({
  takes: z.array(acceptedForCaller.pick({ reply: true, events: true })),
  next: z.string(),
});

/** A reply as it stands: `cursor` is the id of the last event that `text` holds. */
const replyStandingSchema = z.object({
  reply: z.string(),
  conversation: z.string(),
  state: z.enum(replyStates),
  text: z.string(),
  cursor: z.int(),
});
export type ReplyStanding = z.infer<typeof replyStandingSchema>;

const stoppedSchema = z.object({ reply: z.string(), state: z.enum(replyStates) });

/** One event on the stream of a bench tab: an event of a reply, whosever it is. */
export const benchEventSchema = z.object({ reply: z.string(), conversation: z.string(), event: numberedEventSchema });
export type BenchEvent = z.infer<typeof benchEventSchema>;

/** What the stream of a bench tab says beside that: a conversation changed otherwise than by a reply. */
export const changedSchema = z.object({ conversation: z.string() });

const asked = jsonBody(replyCallSchema, parseReplyCall);

/** Failures on the way of a message, as a caller who asked for the whole answer gets them. */
export const failures = [
  "unreachable",
  "bad-reply",
  "broken-off",
  "empty",
  "unauthorised",
  "not-allowed",
  "unknown-model",
  "misconfigured",
  "timed-out",
  "rate-limited",
  "overloaded",
  "reported",
  "interrupted",
  "too-long",
] as const;

/** How a caller is refused that is not known, or calls too much. */
export const callerProblems = ["unknown-caller", "over-limit"] as const;

/** What callers of an app may do with replies. */
export const replies = {
  ask: call({
    method: "POST",
    path: "/api/apps/{slug}/replies",
    by: "visitor",
    does: "Asks an app for a reply: as a stream, at once with a 202, or as one whole answer.",
    headers: ["accept", "prefer", "idempotency-key", "last-event-id"],
    body: asked,
    answers: {
      200: [json(wholeAnswerSchema), events(numberedEventSchema), lines(numberedEventSchema)],
      202: json(z.union([acceptedForCaller, takesForCaller])),
    },
    problems: [...failures, ...callerProblems, "not-found", "busy", "conflict", "key-reused"],
    example: { headers: { accept: "text/event-stream" }, body: { message: "When does the next boat leave?" } },
  }),
  read: call({
    method: "GET",
    path: "/api/apps/{slug}/replies/{id}",
    by: "visitor",
    does: "Reads a reply as it stands, or its events after the last that the caller had.",
    headers: ["accept", "last-event-id"],
    query: z.object({
      /** What the answer with 202 gave, for a reader that can't send headers. */
      ticket: z.string().max(300).optional(),
    }),
    answers: { 200: [json(replyStandingSchema), events(numberedEventSchema)], 204: nothing },
    problems: ["not-found", "unknown-caller"],
  }),
  stop: call({
    method: "POST",
    path: "/api/apps/{slug}/replies/{id}/stop",
    by: "visitor",
    does: "Stops a reply, and says how it ended.",
    answers: { 200: json(stoppedSchema) },
    problems: ["not-found", "unknown-caller"],
  }),
  describe: call({
    method: "GET",
    path: "/api/apps/{slug}/openapi.json",
    by: "anyone",
    does: "Describes these endpoints, as OpenAPI 3.1.",
    answers: { 200: json(z.looseObject({ openapi: z.string() })) },
    problems: ["not-found"],
  }),
};

/** The same for the bench, which asks on the draft and reads all replies through one stream. */
export const benchReplies = {
  ask: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/replies",
    by: "bench",
    does: "Asks the draft of an app for a reply, which then arrives on the stream of the bench.",
    body: asked,
    answers: { 202: json(acceptedAtBench) },
    problems: [...failures, "not-found", "busy", "conflict"],
  }),
  stop: call({
    method: "POST",
    path: "/api/bench/replies/{id}/stop",
    by: "bench",
    does: "Stops a reply, and says how it ended.",
    answers: { 200: json(stoppedSchema) },
    problems: ["not-found"],
  }),
  /** Milliseconds after the reader asked, and the number of characters of text, of each arrival. */
  arrived: call({
    method: "PUT",
    path: "/api/bench/replies/{id}/arrivals",
    by: "bench",
    does: "Notes when the text of a reply arrived at its reader.",
    body: jsonBody(z.strictObject({ arrivals: z.array(z.tuple([z.number(), z.int()])).max(20_000) })),
    answers: { 204: nothing },
  }),
  stream: call({
    method: "GET",
    path: "/api/bench/stream",
    by: "bench",
    does: "Gives the events of all replies, as they come.",
    headers: ["last-event-id"],
    answers: { 200: events(benchEventSchema) },
  }),
};
