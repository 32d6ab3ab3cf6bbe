import { z } from "zod";
import { problemSchema } from "../problem/problem";
import { candidateSchema, usageSchema } from "../reply/events";
import { replyStates } from "../reply/reply";

/** One part of a message's content. */
export const pieceSchema = z.discriminatedUnion("kind", [z.object({ kind: z.literal("text"), text: z.string() })]);
export type Piece = z.infer<typeof pieceSchema>;

/** What a stored reply knows of its making. */
export const replyFactsSchema = candidateSchema.extend({
  revision: z.int(),
  thought: z.string().optional(),
  usage: usageSchema.optional(),
  problem: problemSchema.optional(),
  /** Milliseconds after the call came at which its message was stored, its revision fixed, its context assembled. */
  steps: z.object({ visitor: z.number(), prompt: z.number(), memory: z.number() }).optional(),
  /** Milliseconds from the call to the first text. */
  firstTextMs: z.number().optional(),
  /** Milliseconds from the call to the end. */
  totalMs: z.number().optional(),
  /** How many attempts it took, where it took several. */
  attempts: z.int().optional(),
  /** The attempts that failed before any text. */
  failures: z.array(candidateSchema.extend({ problem: problemSchema })).optional(),
  /** The model that should have answered, where it was another that did. */
  insteadOf: candidateSchema.optional(),
  /** What the API gave along, to have it back with the next call. */
  carry: z.unknown().optional(),
  /** Characters that arrived in each of up to 24 equal parts of the time from first text to end. */
  trace: z.array(z.number()).optional(),
});
export type ReplyFacts = z.infer<typeof replyFactsSchema>;

const base = z.object({
  id: z.string(),
  /** The message before this one; null at the root of the tree. */
  parent: z.string().nullable(),
  /** Messages above this one in the tree, from 0. */
  depth: z.int(),
  pieces: z.array(pieceSchema),
  /** Tokens of the pieces: as reported for replies, else as estimated. */
  tokens: z.int(),
  /** Epoch milliseconds, UTC. */
  at: z.int(),
});

/** What a visitor said. */
export const visitorMessageSchema = base.extend({ role: z.literal("visitor") });
export type VisitorMessage = z.infer<typeof visitorMessageSchema>;

/** What the app answered, or is answering. */
export const appMessageSchema = base.extend({
  role: z.literal("app"),
  state: z.enum(replyStates),
  /** The reply that this take goes on from. */
  continues: z.string().nullable(),
  facts: replyFactsSchema,
});
export type AppMessage = z.infer<typeof appMessageSchema>;

/** A node of a conversation's tree. Takes of one reply are siblings. */
export type Message = VisitorMessage | AppMessage;

/** The text of a message, its text pieces joined. */
export function textOf(message: { pieces: Piece[] }): string {
  return message.pieces.map((piece) => piece.text).join("");
}
