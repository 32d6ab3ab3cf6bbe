import { z } from "zod";
import { problemSchema } from "../../problem/problem";
import { circlesIn } from "./circles";
import { areLeaving } from "./goodbye";

/** Rounds that a duet may have: in each both speak once. */
export const mostRounds = 50;
/** Characters of an opening line, and of a word that is put in. */
export const longestLine = 10_000;

/** The two of a duet: the first, and the second. */
export type Side = 0 | 1;
export const sideSchema = z.union([z.literal(0), z.literal(1)]);

/** The other one. */
export function otherOf(side: Side): Side {
  return side === 0 ? 1 : 0;
}

/** Why a duet has ended. */
export const duetEndSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("rounds") }),
  z.object({ kind: z.literal("goodbye") }),
  z.object({ kind: z.literal("circles"), measure: z.number() }),
  /** The next utterance might have cost, or taken, more than all of it may. */
  z.object({ kind: z.literal("price") }),
  z.object({ kind: z.literal("tokens") }),
  z.object({ kind: z.literal("stopped") }),
  z.object({ kind: z.literal("failed"), problem: problemSchema }),
]);
export type DuetEnd = z.infer<typeof duetEndSchema>;

/** What a duet may come to; prices in the currency of the bench, and null where there is no limit. */
export interface DuetLimits {
  rounds: number;
  mostPrice: number | null;
  mostTokens: number | null;
}

/** An utterance, as far as it matters for the end: its words, and what it took. */
export interface Uttered {
  text: string;
  price: number;
  tokens: number;
}

/**
 * Whether a duet ends after what was said, and why.
 * @param from utterances before which nothing is judged by its words: the developer had it go on from there
 */
export function endOf(said: readonly Uttered[], limits: DuetLimits, from: number): DuetEnd | undefined {
  const texts = said.slice(from).map(({ text }) => text);
  if (areLeaving(texts)) return { kind: "goodbye" };
  const { measure, isCircle } = circlesIn(texts);
  if (isCircle) return { kind: "circles", measure };
  if (said.length >= limits.rounds * 2) return { kind: "rounds" };
  if (mayOutgrow(said, limits.mostPrice, ({ price }) => price)) return { kind: "price" };
  if (mayOutgrow(said, limits.mostTokens, ({ tokens }) => tokens)) return { kind: "tokens" };
  return undefined;
}

/** Whether one more utterance that takes what the dearest took is too much; each carries more than the one before. */
function mayOutgrow(said: readonly Uttered[], most: number | null, of: (uttered: Uttered) => number): boolean {
  if (most === null) return false;
  const taken = said.reduce((sum, each) => sum + of(each), 0);
  return taken + Math.max(0, ...said.map(of)) > most || taken >= most;
}

/** What one side is told: what the other said, and words that were put in, each in a paragraph of its own. */
export function heardBy(said: string, words: readonly string[]): string {
  return [said, ...words].join("\n\n");
}
