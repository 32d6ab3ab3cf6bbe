import { z } from "zod";
import { clearSchema } from "@/core/context/clear";
import { outlineSchema } from "@/core/context/outline";
import { pinnedTurnSchema } from "@/core/context/row";
import { appMessageSchema, replyFactsSchema, visitorMessageSchema } from "@/core/conversation/message";
import { ratings } from "@/core/conversation/rating";
import { candidateSchema, nextAttemptSchema } from "@/core/reply/events";
import { replyStates } from "@/core/reply/reply";
import { toldAttemptSchema, toldUsageSchema } from "@/core/reply/told";
import { apartSchema } from "@/core/revision/changes";
import { filterSchema } from "@/core/search/filter";
import { call, json, jsonBody, nothing } from "./call";
import { benchSummarySchema, summarisingSchema } from "./summaries";

/** What is told of a reply: each member is named, so that no other leaves. */
const knownFacts = replyFactsSchema.pick({
  revision: true,
  provider: true,
  model: true,
  thought: true,
  cites: true,
  usage: true,
  problem: true,
  hand: true,
  imported: true,
});
/** What a caller is told of a reply: as much as the developer shows. */
const toldFacts = knownFacts.partial({ provider: true, model: true }).extend({ usage: toldUsageSchema.optional() });
/** What the bench is told beside it. */
const benchFacts = knownFacts.extend({
  ...replyFactsSchema.pick({
    content: true,
    steps: true,
    firstTextMs: true,
    totalMs: true,
    trace: true,
    sent: true,
    summary: true,
    strayMarks: true,
    question: true,
    questionMaking: true,
    unstated: true,
    unready: true,
    wordsAlone: true,
    passages: true,
    lead: true,
    attempts: true,
    rounds: true,
    mended: true,
    failures: true,
    caught: true,
    insteadOf: true,
    version: true,
  }).shape,
  /** In what it was made apart from its revision. */
  apart: apartSchema.optional(),
});
export type BenchFacts = z.infer<typeof benchFacts>;

/** What is said of a reply beside what is stored, while it is under way. */
const underWay = {
  /** The id of the last event that its pieces hold. */
  cursor: z.int().optional(),
  /** The further attempt that is waited for. */
  next: nextAttemptSchema.optional(),
};

/** Turns that are counted of a line beside the one that is read. */
export const mostCounted = 200;

/** A message that can be chosen in the place of another: a take of the same reply, or the beginning of a branch. */
const siblingSchema = z.object({
  id: z.string(),
  /** The name of the branch. */
  name: z.string().nullable(),
  /** Turns of its line from it on, counted up to 200. */
  turns: z.int(),
});
export type Sibling = z.infer<typeof siblingSchema>;

/** What the bench is told of a message's place beside it. */
const place = {
  /** All that can be chosen in its place, itself included, in the order in which it was made; empty where there is no other. */
  siblings: z.array(siblingSchema),
  /** For whom a line is drawn after it, above which nothing is carried: for a model alone, or null for all. */
  clearedFor: z.array(candidateSchema.nullable()),
  /** Whether its turn is carried wherever it stands. */
  isPinned: z.boolean(),
};

/** A reply as the bench gets it. */
export const benchReplySchema = appMessageSchema.extend({
  facts: benchFacts,
  ...underWay,
  ...place,
  /** As it was marked, by whom. */
  ratings: z.object({ visitor: z.enum(ratings).optional(), bench: z.enum(ratings).optional() }),
});
export type BenchReply = z.infer<typeof benchReplySchema>;
/** A message as the bench gets it, and as callers do. */
const benchMessageSchema = z.discriminatedUnion("role", [visitorMessageSchema.extend(place), benchReplySchema]);
const inner = { counts: true, soFar: true } as const;
const tokens = {
  /** Of its text: as the provider counted them, else as estimated. Only where callers are told counts. */
  tokens: z.int().optional(),
};
/** What can be chosen in the place of a message: the ids of all, itself among them; none where there is no other. */
const choosable = { siblings: z.array(z.string()) };
const callerMessageSchema = z
  .discriminatedUnion("role", [
    visitorMessageSchema.omit(inner).extend({ ...tokens, ...choosable }),
    appMessageSchema.omit({ ...inner, reported: true }).extend({
      ...tokens,
      ...choosable,
      facts: toldFacts,
      ...underWay,
      next: toldAttemptSchema.optional(),
      /** As the visitor marked it. */
      rating: z.enum(ratings).nullable(),
    }),
  ])
  .meta({ id: "Message" });

/** Where a conversation came from. */
const origin = z.enum(["bench", "page", "http", "terminal", "job", "imported", "lane", "duet"]);

/** A page of a conversation's shown line, oldest first. */
const linePageSchema = z.object({
  conversation: z.string(),
  /** Give it as `before` for the page that comes before this one; null at the beginning. */
  before: z.string().nullable(),
});

/** A page of a line as its caller gets it. */
const callerLineSchema = linePageSchema.extend({ messages: z.array(callerMessageSchema) }).meta({ id: "Line" });
export type CallerLine = z.infer<typeof callerLineSchema>;
export type CallerMessage = z.infer<typeof callerMessageSchema>;

/** A page of a line as the bench gets it. */
const benchLineSchema = linePageSchema.extend({
  messages: z.array(benchMessageSchema),
  app: z.string(),
  origin,
  client: z.string().nullable(),
  /** The lines that are drawn in it, wherever that is, the last first: those that still matter. */
  clears: z.array(clearSchema),
  /** The pinned turns in it, wherever they stand. */
  pinned: z.array(pinnedTurnSchema),
  /** With its last page: its summaries, the newest first, as far as they are of its newest turns. */
  summaries: z.array(benchSummarySchema),
  /** The summary that is being made, or why it was not; null where neither is so. */
  summarising: summarisingSchema.nullable(),
  /** As the developer named it, or the beginning of its first message. */
  title: z.string().nullable(),
  opening: z.string(),
  note: z.string(),
  tags: z.array(z.string()),
  /** The conversation that it says again, while that is there. */
  saidAgain: z.string().nullable(),
  /** What all its calls came to, those of what was deleted in it too; null where there was none. */
  price: z.object({ amount: z.number(), currency: z.string() }).nullable(),
  /** Whether its visitor goes on from another line than the one that is read here. */
  isApart: z.boolean(),
});
export type BenchLine = z.infer<typeof benchLineSchema>;
export type LineMessage = z.infer<typeof benchMessageSchema>;

/** Some turns of a line, in order. */
const stretchSchema = benchLineSchema.omit({ before: true, summaries: true, summarising: true }).extend({
  /** Turns that the whole line has. */
  turns: z.int(),
});
export type Stretch = z.infer<typeof stretchSchema>;

/** Turns that are read at once. */
export const mostTurns = 50;

/** One turn of a conversation's strip: tokens of the two messages, and how the reply ended. */
const callerTurnSchema = z.object({
  visitor: z.int(),
  reply: z.int(),
  state: z.enum(replyStates).nullable(),
});
const stripTurnSchema = callerTurnSchema.extend({
  /** Other lines that part from this one here. */
  forks: z.int(),
  /** Messages in it that say what was searched. */
  places: z.int(),
});

/** A conversation in a list. */
const conversationSchema = z.object({
  id: z.string(),
  origin,
  /** The name that the calling front end gave itself. */
  client: z.string().nullable(),
  /** The start of the first message. */
  opening: z.string(),
  at: z.int(),
  updatedAt: z.int(),
  turns: z.array(callerTurnSchema),
  /** Turns in all; `turns` holds the latest of them. */
  turnCount: z.int(),
  tokens: z.int(),
});

/** A conversation in its caller's list. Tokens are there only where callers are told counts. */
const callerConversationSchema = conversationSchema
  .extend({
    /** As its caller named it. */
    title: z.string().nullable(),
    turns: z.array(callerTurnSchema.partial({ visitor: true, reply: true })),
    tokens: z.int().optional(),
  })
  .meta({ id: "Conversation" });

/** A page of conversations, latest first. */
const conversationsSchema = z
  .object({
    conversations: z.array(callerConversationSchema),
    before: z.string().nullable(),
  })
  .meta({ id: "ConversationPage" });
export type ConversationPage = z.infer<typeof conversationsSchema>;

/** A conversation in the history of an app. */
const listedSchema = conversationSchema.extend({
  turns: z.array(stripTurnSchema),
  /** The visitor's name, where it has one. */
  visitor: z.string().nullable(),
  /** As the developer named it. */
  title: z.string().nullable(),
  tags: z.array(z.string()),
  /** The marks that replies in it have. */
  rated: z.array(z.enum(ratings)),
  /** What its replies cost; null where nothing was counted. */
  price: z.object({ amount: z.number(), currency: z.string() }).nullable(),
  /** Messages that say what was searched, in all of its lines. */
  places: z.int(),
});
export type ListedConversation = z.infer<typeof listedSchema>;

const historySchema = z.object({
  conversations: z.array(listedSchema),
  before: z.string().nullable(),
});
export type HistoryPage = z.infer<typeof historySchema>;

const countSchema = z.object({
  /** Those that a filter finds, and the messages in them that say its words. */
  conversations: z.int(),
  places: z.int(),
  /** All that there are. */
  of: z.int(),
});
export type HistoryCount = z.infer<typeof countSchema>;

/** What the filter of a history can be set to. */
const choicesSchema = z.object({
  from: z.array(z.object({ origin, client: z.string().nullable() })),
  /** A provider and a model each, with a space between. */
  models: z.array(z.string()),
  revisions: z.array(z.int()),
  tags: z.array(z.string()),
});
export type HistoryChoices = z.infer<typeof choicesSchema>;

/**
 * What the next message of a conversation would carry, itself left out. Tokens, and who is asked, only where callers
 * are told of them.
 */
const reachSchema = z
  .object({
    provider: z.string().optional(),
    model: z.string().optional(),
    revision: z.int(),
    /** Turns that are carried, and those that are left out. */
    turns: z.int(),
    leftOut: z.int(),
    /** Tokens of all that is carried, the system prompt included. */
    tokens: z.int().optional(),
    /** Tokens of the context window. */
    window: z.int().optional(),
  })
  .meta({ id: "Reach" });

/** Conversations, or turns, that a page may have. */
export const mostListed = 100;

const page = z.object({
  /** What the page before it gave as `before`. */
  before: z.string().max(100).optional(),
});

const titleOf = z.string().trim().min(1, "is empty").max(160);

/** What callers of an app may do with their own conversations. */
export const conversations = {
  list: call({
    method: "GET",
    path: "/api/apps/{slug}/conversations",
    by: "visitor",
    does: "Lists the caller's conversations with an app, newest first, by page.",
    query: page.extend({
      /** Conversations of a page; 20 where nothing is said. */
      count: z.coerce.number().int().min(1).max(mostListed).optional(),
    }),
    answers: { 200: json(conversationsSchema) },
    problems: ["not-found", "unknown-caller"],
  }),
  read: call({
    method: "GET",
    path: "/api/apps/{slug}/conversations/{id}",
    by: "visitor",
    does: "Reads a page of a conversation's line, the last one first: the line that is shown, or the one through a message.",
    query: page.extend({
      /** Turns of a page; 30 where nothing is said. */
      turns: z.coerce.number().int().min(1).max(mostListed).optional(),
      /** A message whose line is read. */
      through: z.string().max(100).optional(),
    }),
    answers: { 200: json(callerLineSchema) },
    problems: ["not-found", "unknown-caller"],
  }),
  reach: call({
    method: "GET",
    path: "/api/apps/{slug}/conversations/{id}/reach",
    by: "visitor",
    does: "Says what the next message of a conversation would carry.",
    answers: { 200: json(reachSchema) },
    problems: ["not-found", "unknown-caller"],
  }),
  show: call({
    method: "PUT",
    path: "/api/apps/{slug}/conversations/{id}/shown",
    by: "visitor",
    does: "Shows the line through a message of a conversation, such as another take, which the next message goes on from.",
    body: jsonBody(z.strictObject({ message: z.string().max(100) }).meta({ id: "Shown" })),
    answers: { 204: nothing },
    problems: ["not-found", "unknown-caller"],
    example: { body: { message: "MESSAGE" } },
  }),
  name: call({
    method: "PATCH",
    path: "/api/apps/{slug}/conversations/{id}",
    by: "visitor",
    does: "Names a conversation for its caller, or takes the name away.",
    body: jsonBody(z.strictObject({ title: titleOf.nullable() }).meta({ id: "Titled" })),
    answers: { 204: nothing },
    problems: ["not-found", "unknown-caller"],
    example: { body: { title: "Two bicycles to Tansy Holm" } },
  }),
  delete: call({
    method: "DELETE",
    path: "/api/apps/{slug}/conversations/{id}",
    by: "visitor",
    does: "Deletes a conversation for good.",
    answers: { 204: nothing },
    problems: ["not-found", "unknown-caller"],
  }),
};

/** Conversations that can be chosen at once. */
export const mostChosen = 2_000;

const several = z.strictObject({ ids: z.array(z.string().max(100)).min(1).max(mostChosen) });

/** The calls about conversations at the bench, which has everybody's. */
export const benchConversations = {
  list: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/conversations",
    by: "bench",
    does: "Lists the conversations of an app that a filter finds, newest first, by page.",
    query: page.extend(filterSchema.shape),
    answers: { 200: json(historySchema) },
    problems: ["not-found"],
  }),
  count: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/history-count",
    by: "bench",
    does: "Counts what a filter finds.",
    query: filterSchema,
    answers: { 200: json(countSchema) },
    problems: ["not-found"],
  }),
  choices: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/history-choices",
    by: "bench",
    does: "Says what the filter of that list can be set to.",
    answers: { 200: json(choicesSchema) },
    problems: ["not-found"],
  }),
  find: call({
    method: "GET",
    path: "/api/bench/conversations/{id}/places",
    by: "bench",
    does: "Says in which turns of a conversation's line some words are said.",
    query: z.object({ through: z.string().max(100).optional(), words: z.string().max(300) }),
    answers: { 200: json(z.object({ turns: z.array(z.int()) })) },
    problems: ["not-found"],
  }),
  read: call({
    method: "GET",
    path: "/api/bench/conversations/{id}",
    by: "bench",
    does: "Reads a page of a conversation's line, the last one first.",
    query: page.extend({
      /** A message whose line is read, instead of the one that is shown. */
      through: z.string().max(100).optional(),
    }),
    answers: { 200: json(benchLineSchema) },
    problems: ["not-found"],
  }),
  outline: call({
    method: "GET",
    path: "/api/bench/conversations/{id}/outline",
    by: "bench",
    does: "Reads the whole of a conversation's shown line without its texts: what each message holds, and who answered.",
    answers: { 200: json(outlineSchema) },
    problems: ["not-found"],
  }),
  turns: call({
    method: "GET",
    path: "/api/bench/conversations/{id}/turns",
    by: "bench",
    does: "Reads some turns of a conversation's line, wherever they stand in it.",
    query: z.object({
      /** A message whose line is read, instead of the one that is shown. */
      through: z.string().max(100).optional(),
      /** The first turn, from 1. */
      from: z.coerce.number().int().min(1).max(10_000_000),
      count: z.coerce.number().int().min(1).max(mostTurns),
    }),
    answers: { 200: json(stretchSchema) },
    problems: ["not-found"],
  }),
  /** So many can be chosen at once. */
  found: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/found-conversations",
    by: "bench",
    does: "Names all conversations that a filter finds, up to a number that can be chosen at once.",
    query: filterSchema,
    answers: { 200: json(z.object({ ids: z.array(z.string()) })) },
    problems: ["not-found"],
  }),
  hideAll: call({
    method: "POST",
    path: "/api/bench/deleted-conversations",
    by: "bench",
    does: "Deletes several conversations; for a day they can be restored.",
    body: jsonBody(several),
    answers: { 204: nothing },
  }),
  restoreAll: call({
    method: "POST",
    path: "/api/bench/restored-conversations",
    by: "bench",
    does: "Takes the deletion of several conversations back.",
    body: jsonBody(several),
    answers: { 204: nothing },
  }),
  hide: call({
    method: "DELETE",
    path: "/api/bench/conversations/{id}",
    by: "bench",
    does: "Deletes a conversation; for a day it can be restored.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  restore: call({
    method: "POST",
    path: "/api/bench/conversations/{id}/restore",
    by: "bench",
    does: "Takes a deletion back.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
