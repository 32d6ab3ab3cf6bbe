import { wordsOf } from "../../checks/measures";

/**
 * How far a talk of two goes in circles: by how much each of them says again what it said before. See docs/duets.md.
 */
export interface Circles {
  /** From 0 to 1: of the two, the one that repeats itself less. */
  measure: number;
  /** Whether that is a circle. */
  isCircle: boolean;
}

/** From here on it is a circle. */
export const circleAt = 0.75;
/** The newest utterances of each that are looked at, and earlier ones of its own that each of these is held against. */
const newest = 3;
const earlier = 8;
/** What says something that its speaker never said before repeats no more than this. */
const mostWithNews = 0.5;
/** Characters of an utterance that are read: a talk is measured after each of them. */
const longestRead = 2_000;
/** Letters of a word that may be news: shorter ones mostly join others. */
const shortestNews = 4;

/**
 * Measures whether a talk goes in circles. A talk does where both repeat themselves: one that always says "no" to ever
 * new offers does not.
 * @param said what was said, the two taking turns
 */
export function circlesIn(said: readonly string[]): Circles {
  const sides = [0, 1].map((side) => said.filter((_, at) => at % 2 === side));
  const measure = Math.min(...sides.map(repeatedIn));
  return { measure, isCircle: measure >= circleAt };
}

/** How much of its newest utterances one said before, from 0 to 1. */
function repeatedIn(said: readonly string[]): number {
  if (said.length <= newest) return 0;
  const read = said.map((text) => wordsOf(text.slice(0, longestRead)));
  const last = read.slice(-newest).map((words, at) => repetition(words, read.slice(0, read.length - newest + at)));
  return last.reduce((sum, each) => sum + each, 0) / last.length;
}

/** How much of an utterance stood in an earlier one of the same speaker. */
function repetition(words: readonly string[], before: readonly (readonly string[])[]): number {
  const known = new Set(before.flat());
  const isNews = words.some((word) => !known.has(word) && (word.length >= shortestNews || /\p{N}/u.test(word)));
  const nearest = Math.max(0, ...before.slice(-earlier).map((other) => likeness(words, other)));
  return isNews ? Math.min(nearest, mostWithNews) : nearest;
}

/** How much two utterances have in common, from 0 to 1: their words, and which follow each other. */
function likeness(a: readonly string[], b: readonly string[]): number {
  return (shared(a, b) + shared(pairs(a), pairs(b))) / 2;
}

/** Words with the one that follows each, beginning and end among them. */
function pairs(words: readonly string[]): string[] {
  return ["", ...words].map((word, at) => `${word} ${words[at] ?? ""}`);
}

/** What two lists share: the Sørensen–Dice coefficient of their members, each counted once. */
function shared(a: readonly string[], b: readonly string[]): number {
  const [one, other] = [new Set(a), new Set(b)];
  if (one.size + other.size === 0) return 1;
  return (2 * [...one].filter((each) => other.has(each)).length) / (one.size + other.size);
}
