import { z } from "zod";
import type { Calibration } from "./calibration";

/**
 * How many tokens a text has is the provider's secret. The estimate goes by what tokenizers have
 * in common: a short word is about one token, a long one several, each run of punctuation one,
 * digits go in threes, and scripts without spaces take about a token a character. A text is stored with
 * its counts by class, so that what is learned of a model (see calibration.ts) applies without the text.
 */
export const countsSchema = z.object({
  /** Parts of words, of up to six letters. */
  words: z.int(),
  /** Groups of up to three digits. */
  digits: z.int(),
  /** Characters of scripts without spaces. */
  signs: z.int(),
  /** Runs of up to four other characters or line breaks. */
  marks: z.int(),
});
export type Counts = z.infer<typeof countsSchema>;

const parts =
  /(\p{Script=Han}|\p{Script=Hiragana}|\p{Script=Katakana}|\p{Script=Hangul}|\p{Script=Thai})|(\p{N}+)|(\p{L}+)|([^\p{L}\p{N}\s]+)|(\n+)/gu;

const lengthOfPart = { words: 6, digits: 3, marks: 4 };

/** Tokens that each message costs beside its text: its role and its borders. */
export const tokensPerMessage = 4;

/** The counts of nothing. */
export const noCounts: Counts = { words: 0, digits: 0, signs: 0, marks: 0 };

/** The counts of a text. */
export function countsOf(text: string): Counts {
  let [words, digits, signs, marks] = [0, 0, 0, 0];
  for (const [part, sign, digit, word] of text.matchAll(parts)) {
    if (sign) signs += 1;
    else if (digit) digits += Math.ceil(part.length / lengthOfPart.digits);
    else if (word) words += Math.ceil(part.length / lengthOfPart.words);
    else marks += Math.ceil(part.length / lengthOfPart.marks);
  }
  return { words, digits, signs, marks };
}

/** The counts of two texts together. */
export function added(a: Counts, b: Counts): Counts {
  return {
    words: a.words + b.words,
    digits: a.digits + b.digits,
    signs: a.signs + b.signs,
    marks: a.marks + b.marks,
  };
}

/** The estimated tokens of counts before anything is known of a model: a whole number, 0 or more. */
export function rawTokens({ words, digits, signs, marks }: Counts): number {
  return words + digits + signs + marks;
}

/** The estimated tokens of a text for a model, in whole tokens. */
export function tokensOf(text: string, { ratio }: Calibration): number {
  return Math.round(rawTokens(countsOf(text)) * ratio);
}
