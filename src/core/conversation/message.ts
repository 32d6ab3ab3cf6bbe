import { z } from "zod";
import { leadSchema } from "../context/lead";
import { caughtSchema } from "../guards/guard";
import { problemSchema } from "../problem/problem";
import { candidateSchema, usageSchema } from "../reply/events";
import { replyStates } from "../reply/reply";
import { citedSchema } from "../sources/found";
import { countsSchema } from "../tokens/counts";
import { pieceSchema } from "./pieces";
import { sumSchema } from "./sum";

/** What an API gave along with what it said in a round; the last round is the one without calls. */
const carrySchema = z.object({ round: z.int(), value: z.unknown() });
export type Carry = z.infer<typeof carrySchema>;

/** What a stored reply knows of its making. */
export const replyFactsSchema = candidateSchema.extend({
  /** The hash of the content that made it; none where it was imported. */
  content: z.string().optional(),
  /** The number of the revision that this is, or that it was changed from; 0 where it was imported. */
  revision: z.int(),
  /** Where it came with a file: the number of the revision there, which is none of this app. */
  imported: z.object({ revision: z.int().nullable() }).optional(),
  thought: z.string().optional(),
  usage: usageSchema.optional(),
  problem: problemSchema.optional(),
  /** Where no model said it: written by a person, or put right by one. */
  hand: z.enum(["written", "corrected"]).optional(),
  /** Milliseconds after the call came at which its message was stored, its revision fixed, its context assembled. */
  steps: z.object({ visitor: z.number(), prompt: z.number(), memory: z.number() }).optional(),
  /** Milliseconds from the call to the first text. */
  firstTextMs: z.number().optional(),
  /** Milliseconds from the call to the end. */
  totalMs: z.number().optional(),
  /** Messages that were sent for it, the system prompt not counted. */
  sent: z.int().optional(),
  /** The last turn that the summary covers which was sent; 0 where there was none, though the memory carries one. */
  summary: z.int().optional(),
  /** What stands for the beginning of what was sent. */
  lead: leadSchema.optional(),
  /** How many attempts it took, where it took several. */
  attempts: z.int().optional(),
  /** Rounds of calls of tools that it took. */
  rounds: z.int().optional(),
  /** Whether it was asked for once more, since it did not fit its schema. */
  mended: z.literal(true).optional(),
  /** The attempts that failed before any text. */
  failures: z.array(candidateSchema.extend({ problem: problemSchema })).optional(),
  /** What the provider called the model that answered, where it says so. */
  version: z.string().optional(),
  /** The passages that it cites, as they stood then, each once; and marks in it of passages that it did not have. */
  cites: z.array(citedSchema).optional(),
  strayMarks: z.array(z.string()).optional(),
  /** Documents that could not be looked through for it, since they were not read or cut yet. */
  unready: z.int().optional(),
  /** Why its documents were looked through by words alone, where they were to be by meaning, too. */
  wordsAlone: problemSchema.optional(),
  /** Facts in it that neither the passages, the message nor the prompt state, where it may answer from documents alone. */
  unstated: z.array(z.string()).optional(),
  /** What documents were looked through for, where that is not the message. */
  question: z.string().optional(),
  /** The making that this came of, with its dispatches. */
  questionMaking: z.string().optional(),
  /** How many passages its message found in documents, and how many of them went along; none where there are no documents. */
  passages: z.object({ found: z.int(), carried: z.int() }).optional(),
  /** What guards found in what was sent for it and in what it said, and what they did. */
  caught: z.array(caughtSchema).optional(),
  /** The model that should have answered, where it was another that did. */
  insteadOf: candidateSchema.optional(),
  /** What the API gave along in each round, to have it back with the next call. */
  carry: z.array(carrySchema).optional(),
  /** Characters that arrived in each of up to 24 equal parts of the time from first text to end. */
  trace: z.array(z.number()).optional(),
});
export type ReplyFacts = z.infer<typeof replyFactsSchema>;

const base = z.object({
  id: z.string(),
  /** The message before this one; null at the root of the tree. */
  parent: z.string().nullable(),
  /** The turn of its line that it belongs to, counted from 1. */
  turn: z.int(),
  pieces: z.array(pieceSchema),
  /** What its pieces hold, by which tokens are estimated. */
  counts: countsSchema,
  /** The counts of all answered turns of its line, up to this message: a reply's own turn included, a question's not. */
  soFar: sumSchema,
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
  /** Its tokens as the provider counted them; null where it did not. */
  reported: z.int().nullable(),
  /** The reply that this take goes on from. */
  continues: z.string().nullable(),
  facts: replyFactsSchema,
});
export type AppMessage = z.infer<typeof appMessageSchema>;

/** A node of a conversation's tree. Takes of one reply are siblings. */
export type Message = VisitorMessage | AppMessage;
