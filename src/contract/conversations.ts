import { z } from "zod";
import { replyStates } from "@/core/reply/reply";
import { nextAttemptSchema, problemSchema, usageSchema } from "./replies";

const base = {
  id: z.string(),
  parent: z.string().nullable(),
  depth: z.int(),
  pieces: z.array(z.object({ kind: z.literal("text"), text: z.string() })),
  tokens: z.int(),
  at: z.int(),
};

const candidate = z.object({ provider: z.string(), model: z.string() });

const facts = candidate.extend({
  revision: z.int(),
  thought: z.string().optional(),
  usage: usageSchema.optional(),
  problem: problemSchema.optional(),
  steps: z.object({ visitor: z.number(), prompt: z.number(), memory: z.number() }).optional(),
  firstTextMs: z.number().optional(),
  totalMs: z.number().optional(),
  trace: z.array(z.number()).optional(),
  attempts: z.int().optional(),
  failures: z.array(candidate.extend({ problem: problemSchema })).optional(),
  insteadOf: candidate.optional(),
});

/** A message as readers get it. */
export const messageSchema = z.discriminatedUnion("role", [
  z.object({ ...base, role: z.literal("visitor") }),
  z.object({
    ...base,
    role: z.literal("app"),
    state: z.enum(replyStates),
    continues: z.string().nullable(),
    facts,
    cursor: z.int().optional(),
    /** The further attempt that is waited for. */
    next: nextAttemptSchema.optional(),
  }),
]);

/** The same for callers: what the reply says and what it took, and not how it was made. */
const callerMessageSchema = z.discriminatedUnion("role", [
  z.object({ ...base, role: z.literal("visitor") }),
  z.object({
    ...base,
    role: z.literal("app"),
    state: z.enum(replyStates),
    continues: z.string().nullable(),
    facts: facts.pick({ revision: true, provider: true, model: true, thought: true, usage: true, problem: true }),
    cursor: z.int().optional(),
    next: nextAttemptSchema.optional(),
  }),
]);

/** A page of a conversation's shown line, oldest first. */
export const linePageSchema = z.object({
  conversation: z.string(),
  messages: z.array(messageSchema),
  /** Give it as `before` for the page that comes before this one; null at the beginning. */
  before: z.string().nullable(),
});
export type LinePage = z.infer<typeof linePageSchema>;

/** A page of a line as its caller gets it. */
export const callerLineSchema = linePageSchema.extend({ messages: z.array(callerMessageSchema) });

/** A page of a line as the bench gets it. */
export const benchLineSchema = linePageSchema.extend({
  app: z.string(),
  origin: z.enum(["bench", "caller"]),
  /** What the next dispatch would carry of the messages that come before this page. */
  earlier: z.object({ messages: z.int(), turns: z.int(), tokens: z.int() }),
});
export type BenchLine = z.infer<typeof benchLineSchema>;
export type LineMessage = z.infer<typeof messageSchema>;

/** One turn of a conversation's strip. */
export const stripTurnSchema = z.object({
  visitor: z.int(),
  reply: z.int(),
  state: z.enum(replyStates).nullable(),
});

/** A conversation in a list. */
export const conversationSchema = z.object({
  id: z.string(),
  origin: z.enum(["bench", "caller"]),
  /** The start of the first message. */
  opening: z.string(),
  at: z.int(),
  updatedAt: z.int(),
  turns: z.array(stripTurnSchema),
  /** Turns in all; `turns` holds the latest of them. */
  turnCount: z.int(),
  tokens: z.int(),
});
export type ListedConversation = z.infer<typeof conversationSchema>;

/** A page of conversations, latest first. */
export const conversationsSchema = z.object({
  conversations: z.array(conversationSchema),
  before: z.string().nullable(),
});
export type ConversationPage = z.infer<typeof conversationsSchema>;
