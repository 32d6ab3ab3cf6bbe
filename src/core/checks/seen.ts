import { z } from "zod";
import { reasonSchema } from "../context/reason";
import { problemSchema } from "../problem/problem";
import type { Judgement } from "./rubric";

/** What became of an earlier turn in what was sent for a reply. */
export const sentTurnSchema = z.object({
  turn: z.int(),
  /** Whether it went out, by itself or within a summary. */
  isSent: z.boolean(),
  reason: reasonSchema,
});
export type SentTurn = z.infer<typeof sentTurnSchema>;

/** What is known of a reply beside its words. */
export const figuresSchema = z.object({
  /** How it ended: `complete`, `cut`, `refused`, `stopped`, or the kind of its problem. */
  outcome: z.string(),
  problem: problemSchema.optional(),
  /** Milliseconds from the call to the first text, and to the end. */
  firstTextMs: z.number().optional(),
  ms: z.number(),
  /** Tokens, and what they cost. */
  input: z.int().optional(),
  output: z.int().optional(),
  price: z.number().optional(),
  currency: z.string().optional(),
  /** What the provider called the model that answered. */
  version: z.string().optional(),
});
export type Figures = z.infer<typeof figuresSchema>;

/** A passage that the message found. */
export interface SeenPassage {
  /** Its place among those that were found, from 1. */
  rank: number;
  /** What it could be cited by; "" where it was left out. */
  mark: string;
  /** Its document, with the place in it, as a model is told. */
  where: string;
  text: string;
  isCited: boolean;
  /** The kind of the reason for which it was left out. */
  reason?: string;
}

/** A call of a tool that a reply made. */
export interface SeenCall {
  round: number;
  name: string;
  arguments: unknown;
  /** What the model was told that it came to. */
  result: string;
}

/** What an expectation is held against: a reply, or all replies of a trial together. */
export interface Seen extends Figures {
  /** The words of the reply. */
  text: string;
  /** What the visitor said. */
  message: string;
  /** What judges said of it, by their rubrics. */
  judgements?: Readonly<Record<string, Judgement>>;
  /** Earlier turns, and what became of them. */
  turns: readonly SentTurn[];
  /** Whether a pinned turn went out as one, and whether a summary did. */
  hasPin: boolean;
  hasSummary: boolean;
  /** What the message found in the documents, the best first. */
  passages: readonly SeenPassage[];
  /** The calls of tools that it made. */
  calls: readonly SeenCall[];
  /** How the app says that its documents hold no answer; null where it may answer from elsewhere. */
  unknown: string | null;
  /** What the app was told, its variables filled. */
  prompt: string;
  /** The facts that the expectations of this reply name. */
  named: readonly string[];
  /** Whether a pattern is found in the words; undefined where looking for it took too long. */
  matches(pattern: { source: string; flags: string }): boolean | undefined;
  /** Where a value does not fit a JSON Schema; undefined where it does. */
  misfit(schema: object | boolean, value: unknown): { where: string; why: string } | undefined;
}
