import { z } from "zod";
import { problemSchema } from "../problem/problem";

/** Characters of a question, and of the words that answer it. */
export const longestQuestion = 600;
export const longestQuote = 600;
/** Questions that an app may have, and cuts that are tried at once. */
export const mostQuestions = 500;
export const mostCuts = 6;

/** By what passages are found. */
export const retrievalWays = ["words", "meaning", "merged"] as const;
export type RetrievalWay = (typeof retrievalWays)[number];

/** How documents are cut: tokens of a passage, and those that it repeats. */
export const cutSchema = z.strictObject({ size: z.int().min(20).max(4_000), overlap: z.int().min(0).max(1_000) });
export type RetrievalCut = z.infer<typeof cutSchema>;

/** What came of asking all questions on one cut, in one way. */
export const retrievalResultSchema = z.object({
  ...cutSchema.shape,
  way: z.enum(retrievalWays),
  /** At which place each found its passage, in the order of the questions. */
  places: z.array(z.int().nullable()),
  /** Why it could not be done. */
  problem: problemSchema.optional(),
});
export type RetrievalResult = z.infer<typeof retrievalResultSchema>;

/** At which place a question found the passage that holds its answer, from 1; null where it did not. */
export type RetrievedAt = number | null;

/** The share of questions, in whole percent, whose passage is among the first so many that they find. */
export function shareAmong(places: readonly RetrievedAt[], first: number): number {
  const found = places.filter((place) => place !== null && place <= first).length;
  return places.length === 0 ? 0 : Math.round((found / places.length) * 100);
}

/** The mean of one over the place (mean reciprocal rank, as in TREC-8's question answering): 1 where all come first. */
export function meanReciprocalRank(places: readonly RetrievedAt[]): number {
  const sum = places.reduce<number>((all, place) => all + (place === null ? 0 : 1 / place), 0);
  return places.length === 0 ? 0 : sum / places.length;
}

/** A stretch of a document's text. */
export interface TextRange {
  from: number;
  to: number;
}

/** Where words stand in the text of a document, however its blanks are; undefined where they don't. */
export function rangeOfQuote(text: string, quote: string): TextRange | undefined {
  const words = quote.trim().split(/\s+/u).filter(Boolean);
  if (words.length === 0) return undefined;
  const pattern = words.map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")).join("\\s+");
  const found = new RegExp(pattern, "u").exec(text);
  return found ? { from: found.index, to: found.index + found[0].length } : undefined;
}

/** Whether a passage holds an answer: at least half of it, since a cut can part it. */
export function holdsHalf(passage: TextRange, answer: TextRange): boolean {
  const held = Math.min(passage.to, answer.to) - Math.max(passage.from, answer.from);
  return held * 2 >= answer.to - answer.from;
}

/** What a model is asked, to propose a question. */
export function askForProposal(passage: string): string {
  return `Below stands a passage of a document. Write a question that a visitor would ask and that the passage answers, in other words than its own. Write it in the first line. In the second line write the words of the passage that answer it, exactly as they stand there, and nothing else.\n\nThe passage:\n${passage}`;
}

/** The question in what a model answered, with the words that answer it; undefined where the passage does not hold them. */
export function proposalFrom(answer: string, passage: string): { question: string; quote: string } | undefined {
  const [question = "", quote = ""] = answer
    .split("\n")
    .map((line) =>
      line
        .trim()
        .replace(/^(?:question|answer|words)\s*:\s*/i, "")
        .replace(/^["“](.*)["”]$/, "$1"),
    )
    .filter(Boolean);
  if (question.length > longestQuestion || quote.length > longestQuote) return undefined;
  return question !== "" && rangeOfQuote(passage, quote) ? { question, quote } : undefined;
}
