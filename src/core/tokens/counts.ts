import { z } from "zod";
import { type Piece, spoken, toolWords, wordsOfMade } from "../conversation/pieces";

/**
 * How many tokens a message has is the provider's secret. The estimate goes by what all tokenizers go by: how many words
 * there are and how long they are, figures, marks, gaps, and characters of scripts without spaces; of a picture by its
 * size, of a call of a tool by what it says. A message is stored with its counts by class, so that what is learned of a
 * model (see calibration.ts) applies without the message.
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
  /** Calls of tools, each with its answer. */
  "calls",
  /** Pictures, their tiles of 512 by 512 pixels, and their thousands of pixels. */
  "pictures",
  "tiles",
  "kilopixels",
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
  calls: 0,
  pictures: 0,
  tiles: 0,
  kilopixels: 0,
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

const tileSide = 512;

/** The counts of a message's pieces. */
export function countsOfPieces(pieces: readonly Piece[]): Counts {
  const [only, more] = pieces;
  if (only?.kind === "text" && more === undefined) return countsOf(only.text);
  return spoken(pieces).map(countsOfPiece).reduce(added, noCounts);
}

function countsOfPiece(piece: Piece): Counts {
  switch (piece.kind) {
    case "text":
      return countsOf(piece.text);
    case "data":
      return countsOf(JSON.stringify(piece.value));
    case "tool":
      return { ...toolWords(piece).map(countsOf).reduce(added), calls: 1 };
    // of what is not fetched nobody knows the size
    case "linked":
      return { ...noCounts, pictures: 1, tiles: 4, kilopixels: 1_000 };
    case "picture": {
      if (piece.isMade) return countsOf(wordsOfMade(piece));
      const tiles = Math.ceil(piece.width / tileSide) * Math.ceil(piece.height / tileSide);
      return { ...noCounts, pictures: 1, tiles, kilopixels: Math.ceil((piece.width * piece.height) / 1_000) };
    }
  }
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
