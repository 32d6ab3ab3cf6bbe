/** What lengths are counted in. */
export const units = ["characters", "words", "sentences", "paragraphs", "tokens"] as const;
export type Unit = (typeof units)[number];

const characters = new Intl.Segmenter("en", { granularity: "grapheme" });
const words = new Intl.Segmenter("en", { granularity: "word" });

/** Markdown that is no words: marks at the beginning of a line, rules of tables, fences. */
const marks = /^\s*(?:#{1,6}\s|[-*+]\s+|\d{1,3}[.)]\s+|>\s?|```.*$|\|?[\s:|-]+\|[\s:|-]*$)/gm;

/**
 * The length of a text. Characters as readers see them (Unicode, UAX 29), words likewise, figures and prices as one;
 * sentences by their ends, of which those of abbreviations, times and prices are none; an item of a list or a line of
 * a table without an end is a sentence; paragraphs are parted by blank lines.
 */
export function lengthOf(text: string, unit: Exclude<Unit, "tokens">): number {
  switch (unit) {
    case "characters":
      return count(characters.segment(text.trim()));
    case "words":
      return wordsOf(text).length;
    case "sentences":
      return sentencesOf(text).length;
    case "paragraphs":
      return text.split(/\n\s*\n/).filter((part) => part.trim() !== "").length;
  }
}

/** The words of a text in small letters, without marks. */
export function wordsOf(text: string): string[] {
  const found: string[] = [];
  // a time is one word, however it is written
  for (const { segment, isWordLike } of words.segment(text.replace(/(\d):(?=\d)/g, "$1.")))
    if (isWordLike) found.push(segment.toLowerCase());
  return found;
}

/** Abbreviations that a name follows, and those after which a sentence may end. */
const titles = /\b(?:mr|mrs|ms|dr|st|prof)\.$/iu;
const abbreviations = /(?:\b(?:e\.g|i\.e|a\.m|p\.m|etc|approx|no|nr|vs|incl|min|max|z\.B|d\.h|bzw|ca)\.|\b\p{Lu}\.)$/iu;

/** The sentences of a text, as they stand there. */
export function sentencesOf(text: string): string[] {
  const sentences: string[] = [];
  for (const line of text.replace(marks, (mark) => " ".repeat(mark.length)).split("\n")) {
    let from = 0;
    for (const end of line.matchAll(/[.!?…]+["'”’»)\]*_]*(?=\s|$)|[。！？]+[」』）]*/gu)) {
      const to = end.index + end[0].length;
      const said = line.slice(from, to);
      const goesOn = /^\s+[\p{Ll}\p{N}]/u.test(line.slice(to));
      if (end[0] === "." && (titles.test(said) || (abbreviations.test(said) && goesOn))) continue;
      sentences.push(said);
      from = to;
    }
    sentences.push(line.slice(from));
  }
  return sentences.map((each) => each.trim()).filter((each) => /[\p{L}\p{N}]/u.test(each));
}

function count(all: Iterable<unknown>): number {
  let sum = 0;
  for (const _ of all) sum += 1;
  return sum;
}

/** Words that are compared at most: more of them take too long. */
const mostWords = 2_000;

/**
 * How like two texts are, from 0 to 1: the F-measure of their longest common subsequence of words (ROUGE-L, Lin 2004).
 * Of each the first 2,000 words are compared.
 */
export function likeness(a: string, b: string): number {
  const [left, right] = [wordsOf(a).slice(0, mostWords), wordsOf(b).slice(0, mostWords)];
  if (left.length + right.length === 0) return 1;
  let row = new Array<number>(right.length + 1).fill(0);
  for (const word of left) {
    const next = [0];
    for (const [at, other] of right.entries())
      next.push(word === other ? (row[at] ?? 0) + 1 : Math.max(row[at + 1] ?? 0, next[at] ?? 0));
    row = next;
  }
  return (2 * (row.at(-1) ?? 0)) / (left.length + right.length);
}
