import { z } from "zod";

/**
 * How many tokens a text has is the provider's secret. The estimate goes by what all tokenizers go by: how many words
 * there are and how long they are, figures, marks, gaps, and characters of scripts without spaces. A text is stored
 * with its counts by class, so that what is learned of a model (see calibration.ts) applies without the text.
 */
export const classes = [
  /** Runs of letters, and the letters in them. */
  "words",
  "letters",
  /** Runs of characters of scripts without spaces, and the characters in them. */
  "runs",
  "signs",
  /** Groups of up to three digits. */
  "digits",
  /** Runs of other characters, and the characters in them. */
  "strokes",
  "marks",
  /** Runs of white space before a word or a figure, those before anything else, and the characters in both beyond the first. */
  "gaps",
  "ends",
  "blanks",
] as const;
export type Class = (typeof classes)[number];
export type Counts = Record<Class, number>;

export const countsSchema = z.object(
  Object.fromEntries(classes.map((name) => [name, z.int()])) as Record<Class, z.ZodInt>,
);

const parts =
  /((?:\p{Script=Han}|\p{Script=Hiragana}|\p{Script=Katakana}|\p{Script=Hangul}|\p{Script=Thai})+)|(\p{N}+)|(\p{L}+)|(\s+(?=[\p{L}\p{N}]))|(\s+)|([^\p{L}\p{N}\s]+)/gu;

const digitsTogether = 3;

/** The counts of nothing. */
export const noCounts: Counts = {
  words: 0,
  letters: 0,
  runs: 0,
  signs: 0,
  digits: 0,
  strokes: 0,
  marks: 0,
  gaps: 0,
  ends: 0,
  blanks: 0,
};

/** The counts of a text. */
export function countsOf(text: string): Counts {
  const counts = { ...noCounts };
  for (const [part, signs, digits, word, gap, end] of text.matchAll(parts)) {
    if (word) {
      counts.words += 1;
      counts.letters += part.length;
    } else if (gap || end) {
      counts[gap ? "gaps" : "ends"] += 1;
      counts.blanks += part.length - 1;
    } else if (signs) {
      counts.runs += 1;
      counts.signs += part.length;
    } else if (digits) counts.digits += Math.ceil(part.length / digitsTogether);
    else {
      counts.strokes += 1;
      counts.marks += part.length;
    }
  }
  return counts;
}

/** The counts of two texts together. */
export function added(a: Counts, b: Counts): Counts {
  const sum = { ...a };
  for (const name of classes) sum[name] += b[name];
  return sum;
}

/** Counts without those of a part of them. */
export function without(a: Counts, b: Counts): Counts {
  const rest = { ...a };
  for (const name of classes) rest[name] -= b[name];
  return rest;
}

/** What several messages hold together: the counts of their texts, and how many they are. */
export interface Holding {
  counts: Counts;
  messages: number;
}
export const holdingSchema = z.object({ counts: countsSchema, messages: z.int() });

/** Nothing at all. */
export const noHolding: Holding = { counts: noCounts, messages: 0 };

/** What two holdings have together. */
export function together(a: Holding, b: Holding): Holding {
  return { counts: added(a.counts, b.counts), messages: a.messages + b.messages };
}

/** A holding without a part of it. */
export function apartFrom(a: Holding, b: Holding): Holding {
  return { counts: without(a.counts, b.counts), messages: a.messages - b.messages };
}
