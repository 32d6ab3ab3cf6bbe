import { z } from "zod";
import { pictureSchema } from "@/core/conversation/pieces";
import { type Problem, problem } from "@/core/problem/problem";
import { endReasons, numberedEventSchema } from "@/core/reply/events";
import { replyStates } from "@/core/reply/reply";
import { toldEventSchema, toldHeadSchema, toldUsageSchema } from "@/core/reply/told";
import { withSchema } from "@/core/serving/access";
import { citedSchema } from "@/core/sources/found";
import { broughtToolSchema, longestResult, mostTools, toolChoiceSchema } from "@/core/tools/tool";
import { replySchemaSchema } from "@/core/typed/schema";
import { call, events, json, jsonBody, lines, nothing } from "./call";
import { type Parsed, parse } from "./parse";
import { problemDocumentSchema } from "./problem";

/** Takes of a reply that can be asked for at once. */
export const mostTakes = 10;

/** A body by its name in the document; fields that are not named are refused. */
function named<S extends z.ZodRawShape>(id: string, shape: S) {
  return z.strictObject(shape).meta({ id });
}

const words = z.string().refine((text) => text.trim() !== "", "is empty; send some text");
const httpsAddress = z
  .string()
  .max(2_000)
  .refine(isHttps, "is no address that begins with https://, without a name and a password in it");

function isHttps(address: string): boolean {
  if (!URL.canParse(address)) return false;
  const { protocol, username, password } = new URL(address);
  return protocol === "https:" && username === "" && password === "";
}

/** Pieces that a message may have. */
const mostPieces = 20;
const pieces = z
  .array(
    z.discriminatedUnion("kind", [
      z.strictObject({ kind: z.literal("text"), text: words }).meta({ id: "TextPiece" }),
      /** A picture by the `file` that it was kept as. */
      z.strictObject({ kind: z.literal("picture"), file: z.string().max(100) }).meta({ id: "PicturePiece" }),
      /** A picture that stands at an address, which the model's provider fetches; nothing here does. */
      z.strictObject({ kind: z.literal("linked"), address: httpsAddress }).meta({ id: "LinkedPiece" }),
    ]),
  )
  .min(1)
  .max(mostPieces);
/** A piece of a message that is asked with. */
export type AskedPiece = z.infer<typeof pieces>[number];

/** Characters that the value of a variable may have. */
const longestValue = 10_000;
/** Values of variables of a prompt, by their names. */
export const variablesSchema = z
  .record(z.string().max(100), z.string().max(longestValue, `has more than ${longestValue} characters`))
  .meta({ id: "Variables" });

/** What a caller may bring along with a question. */
const brings = {
  /** Tools that the model may ask for, and that the caller answers. */
  tools: z.array(broughtToolSchema).max(mostTools).optional(),
  /** Whether tools are called. */
  toolChoice: toolChoiceSchema.optional(),
  /** Whether the model may ask for one call at a time alone. */
  oneAtATime: z.boolean().optional(),
  /** A JSON Schema (2020-12) that the reply has to fit. */
  schema: replySchemaSchema.optional(),
};

const messageCall = named("MessageCall", {
  /** Text, or pieces: of text, and pictures. */
  message: z.union([words, pieces], {
    error: "is not text that holds something, nor a list of pieces: of text, or of pictures that were kept",
  }),
  /** The conversation to go on with; a new one without it. */
  conversation: z.string().optional(),
  /** The reply to branch after, instead of going on from the tip; null begins the conversation in another way. */
  after: z.string().nullable().optional(),
  /** How many replies are wanted, each a take of its own. */
  count: z.int().min(1).max(mostTakes).optional(),
  /** Values of those variables of the prompt that a call gives. */
  variables: variablesSchema.optional(),
  /** A model or settings that the developer lets callers choose. */
  with: withSchema.optional(),
  ...brings,
});

export type MessageCall = z.infer<typeof messageCall>;

/** Messages that a caller may hold; storing them is one write, in which everything else waits for some 60 ms. */
export const mostHeld = 400;

/** A call of a tool in such a history, with its answer. */
const heldToolPiece = named("HeldToolPiece", {
  kind: z.literal("tool"),
  /** The round that it belongs to, from 1. */
  round: z.int().min(1).max(100).default(1),
  call: z.string().max(200),
  name: z.string().max(200),
  arguments: z.json(),
  outcome: z.enum(["answered", "failed", "declined"]).default("answered"),
  result: z.string().max(longestResult),
});

/** One message of such a history: its text, or where the app called tools its pieces. */
const heldMessage = named("HeldMessage", {
  role: z.enum(["visitor", "app"]),
  text: words.optional(),
  pieces: z
    .array(
      z.discriminatedUnion("kind", [
        z.strictObject({ kind: z.literal("text"), text: z.string() }).meta({ id: "HeldTextPiece" }),
        heldToolPiece,
      ]),
    )
    .min(1)
    .max(400)
    .optional(),
});
export type HeldMessage = z.infer<typeof heldMessage>;

/** The text of a message of a history. */
export function heldText({ text, pieces = [] }: HeldMessage): string {
  return text ?? pieces.map((piece) => (piece.kind === "text" ? piece.text : "")).join("");
}

/**
 * A history that its caller holds: the visitor and the app in turn, the visitor first; and last, unless the app asked for
 * tools that were answered since.
 */
const heldCall = named("HeldCall", {
  messages: z.array(heldMessage).min(1).max(mostHeld),
  /** Whether it is kept as a conversation; otherwise all of it is deleted a minute after the reply has ended. */
  store: z.boolean().optional(),
  count: z.int().min(1).max(mostTakes).optional(),
  variables: variablesSchema.optional(),
  with: withSchema.optional(),
  ...brings,
});
export type HeldCall = z.infer<typeof heldCall>;

const goOnCall = named("GoOnCall", {
  /** A reply that was cut, stopped or interrupted. */
  goOn: z.string(),
  variables: variablesSchema.optional(),
  ...brings,
});

const againCall = named("AgainCall", {
  /** A visitor's message, to which another reply is wanted. */
  again: z.string(),
  /** How many, each a take of its own. */
  count: z.int().min(1).max(mostTakes).optional(),
  variables: variablesSchema.optional(),
  with: withSchema.optional(),
  ...brings,
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
          advice:
            "Leave it out. Values for the prompt's variables go into `variables`; where Serve allows it, `with.system` goes after the prompt.",
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
  const unsaid = messages.findIndex(({ role, text, pieces }) =>
    role === "visitor" ? text === undefined || pieces : (text === undefined) === (pieces === undefined),
  );
  if (unsaid >= 0)
    return refused(
      problem("bad-request", `messages[${unsaid}] has no text, or more than that.`, {
        advice: "Send a `text`; one of the app that called tools has `pieces` instead.",
      }),
    );
  if (messages.length % 2 === 0 && messages.at(-1)?.pieces?.at(-1)?.kind !== "tool")
    return refused(
      problem("bad-request", "The last message is the app's.", {
        advice: "End with the visitor's, or with the answer of a tool.",
      }),
    );
  return held;
}

function refused(problem: Problem): Parsed<never> {
  return { ok: false, problem };
}

/** Where the reply belongs, and who answers where callers are told. */
const made = toldHeadSchema.omit({ continues: true });

/** The whole answer to a call that does not stream. */
const wholeAnswerSchema = z
  .object({
    form: z.literal("whole"),
    ...made.shape,
    text: z.string(),
    /** The reply as data, where it had to fit a schema. */
    data: z.json().optional(),
    /** Its pictures: each is had by its file. */
    pictures: z.array(pictureSchema).optional(),
    /** The passages that it cites: their marks stand in the text, in square brackets. */
    cites: z.array(citedSchema).optional(),
    end: z.enum(endReasons),
    usage: toldUsageSchema.optional(),
    /** A command that goes on from here. */
    next: z.string(),
  })
  .meta({ id: "WholeAnswer" });
export type WholeAnswer = z.infer<typeof wholeAnswerSchema>;

/** The answer to `Prefer: respond-async`. */
const acceptedSchema = made.pick({ reply: true, conversation: true, message: true });
export type Accepted = z.infer<typeof acceptedSchema>;

/** What the bench is told of a reply that comes later, of which several takes may have been asked for. */
const acceptedAtBench = acceptedSchema.extend({
  /** The ids of further takes. */
  further: z.array(z.string()),
});

/** What a caller is told of a reply that comes later, to be read without saying once more who it is. */
const acceptedForCaller = z
  .object({
    form: z.literal("later"),
    ...acceptedSchema.shape,
    /** Where a plain EventSource reads it, for some minutes. */
    events: z.string(),
    next: z.string(),
  })
  .meta({ id: "LaterAnswer" });

/** The answer to a call for several takes: each is read by its own id. */
const takesForCaller = z
  .object({
    form: z.literal("takes"),
    ...acceptedSchema.omit({ reply: true }).shape,
    takes: z.array(acceptedForCaller.pick({ reply: true, events: true }).meta({ id: "Take" })),
    next: z.string(),
  })
  .meta({ id: "TakesAnswer" });

/** A call that waits for whoever asked for the reply. */
const callForCaller = z
  .object({
    call: z.string(),
    name: z.string(),
    arguments: z.json(),
    /** `caller` where its answer is wanted, `leave` where it wants to know whether it may be made. */
    waitsFor: z.enum(["caller", "leave"]),
  })
  .meta({ id: "CallForCaller" });
export type CallForCaller = z.infer<typeof callForCaller>;

/** What a caller is told that asked for the whole answer, where the reply waits for it. */
const callsForCaller = z
  .object({
    form: z.literal("calls"),
    ...acceptedSchema.shape,
    /** What was said so far. */
    text: z.string(),
    calls: z.array(callForCaller),
    /** Where a plain EventSource reads on, for some minutes. */
    events: z.string(),
    /** A command that answers the first of them. */
    next: z.string(),
  })
  .meta({ id: "CallsAnswer" });

/** A reply as it stands: `cursor` is the id of the last event that `text` holds. */
const replyStandingSchema = z
  .object({
    reply: z.string(),
    conversation: z.string(),
    state: z.enum(replyStates),
    text: z.string(),
    /** The reply as data, as far as it goes by now, where it has to fit a schema. */
    data: z.json().optional(),
    cursor: z.int(),
    /** The calls that wait for whoever asked for it, where nothing else of it is under way. */
    calls: z.array(callForCaller).optional(),
    /** What it cost, once that is known. */
    usage: toldUsageSchema.optional(),
    /** Why it failed, with all that whoever asked for the whole answer is told. */
    problem: problemDocumentSchema.optional(),
  })
  .meta({ id: "ReplyStanding" });
export type ReplyStanding = z.infer<typeof replyStandingSchema>;

const stoppedSchema = z.object({ reply: z.string(), state: z.enum(replyStates) }).meta({ id: "StoppedReply" });

/** What is said to a call of a tool that waits: that it may be made, or not; or what came of it. */
const saidToCallSchema = named("SaidToCall", { allow: z.boolean() }).or(
  named("AnswerToCall", {
    /** What a model is told; from 64 KB on it is cut. */
    answer: z.string().max(1_000_000),
    /** Whether that is why it could not be done. */
    failed: z.boolean().optional(),
  }),
);
export type SaidToCall = z.infer<typeof saidToCallSchema>;

/** One event on the stream of a bench tab: an event of a reply, whosever it is. */
export const benchEventSchema = z.object({ reply: z.string(), conversation: z.string(), event: numberedEventSchema });
export type BenchEvent = z.infer<typeof benchEventSchema>;

/** What the stream of a bench tab says beside that: a conversation changed otherwise than by a reply, or an app did. */
export const changedSchema = z.object({ conversation: z.string() });
export const changedAppSchema = z.object({ slug: z.string(), draftHash: z.string() });
export type ChangedApp = z.infer<typeof changedAppSchema>;

/** The id of a conversation that a tab of the bench begins: it is known before anything is sent. */
const begunSchema = z.string().regex(/^con_[0-9a-hjkmnp-tv-z]{26}$/, "is no id of a conversation");

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
  "no-place",
  "only-tools",
  "too-many-rounds",
  "unfit",
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
      200: [json(wholeAnswerSchema), events(toldEventSchema), lines(toldEventSchema)],
      202: json(z.discriminatedUnion("form", [acceptedForCaller, takesForCaller, callsForCaller])),
    },
    problems: [...failures, ...callerProblems, "not-found", "busy", "conflict", "key-reused"],
    example: { headers: { accept: "text/event-stream" }, body: { message: "When does the next boat leave?" } },
  }),
  read: call({
    method: "GET",
    path: "/api/apps/{slug}/replies/{id}",
    by: "visitor",
    does: "Reads a reply as it stands, or its events after the last that the caller had.",
    headers: ["accept", "prefer", "last-event-id"],
    query: z.object({
      /** What the answer with 202 gave, for a reader that can't send headers. */
      ticket: z.string().max(300).optional(),
    }),
    answers: {
      200: [json(replyStandingSchema), events(toldEventSchema), lines(toldEventSchema)],
      204: nothing,
    },
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
  sayToCall: call({
    method: "POST",
    path: "/api/apps/{slug}/replies/{id}/calls/{call}",
    by: "visitor",
    does: "Says whether a tool that asks for it may be called, or answers a call of a tool that was brought along; `call` is the id in the reply's event.",
    body: jsonBody(saidToCallSchema),
    example: { body: { allow: true } },
    answers: { 204: nothing },
    problems: ["not-found", "unknown-caller", "conflict"],
  }),
  describe: call({
    method: "GET",
    path: "/api/apps/{slug}/openapi.json",
    by: "anyone",
    does: "Describes these endpoints, as OpenAPI.",
    query: z.object({
      /** Of OpenAPI; 3.1 where nothing is said. */
      version: z.enum(["3.1", "3.2"]).optional(),
    }),
    answers: { 200: json(z.looseObject({ openapi: z.string() })) },
    problems: ["not-found"],
  }),
};

/** The calls about replies at the bench, which asks on the draft and reads all replies through one stream. */
export const benchReplies = {
  ask: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/replies",
    by: "bench",
    does: "Asks the draft of an app for a reply, which then arrives on the stream of the bench.",
    query: z.object({
      /** The id that a new conversation gets; one that is taken is refused. */
      begins: begunSchema.optional(),
    }),
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
  sayToCall: call({
    method: "POST",
    path: "/api/bench/replies/{id}/calls/{call}",
    by: "bench",
    does: "Says whether a tool may be called, or answers a call by hand.",
    body: jsonBody(saidToCallSchema),
    answers: { 204: nothing },
    problems: ["not-found", "conflict"],
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
