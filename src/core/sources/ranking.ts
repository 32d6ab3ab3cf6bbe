/**
 * How well a passage fits a question: BM25 (Robertson and Zaragoza, "The Probabilistic Relevance Framework", 2009),
 * with the constants that FTS5 uses. A term counts for more the fewer of the passages that are looked through have it.
 * These are the passages of one content alone: what other apps of the data folder hold changes no rank.
 */

/** How soon a term that stands in a passage again counts for no more. */
const saturation = 1.2;
/** How much the length of a passage counts against it: 0 not at all, 1 in full. */
const lengthShare = 0.75;

/** All passages that are looked through. */
export interface Collection {
  passages: number;
  /** Of all passages together. */
  words: number;
  /** How many passages have a term. */
  having: (term: string) => number;
}

/** A passage by its words, as `foundText` gives them. */
export interface WordedPassage {
  words: string;
  /** How many words these are. */
  length: number;
}

/** @returns how well passages fit some terms, each: 0 where a passage has none of them, the more the better */
export function fitsOf(passages: readonly WordedPassage[], terms: readonly string[], collection: Collection): number[] {
  const weighed = terms.map((term) => ({ term, weight: weightOf(collection.having(term), collection.passages) }));
  const usual = collection.words / Math.max(collection.passages, 1);
  return passages.map(({ words, length }) => {
    const against = saturation * (1 - lengthShare + (lengthShare * length) / Math.max(usual, 1));
    let fit = 0;
    for (const { term, weight } of weighed) {
      const times = timesIn(words, term);
      fit += (weight * times * (saturation + 1)) / (times + against);
    }
    return fit;
  });
}

/** What a term counts that so many of all passages have: above 0, also where all of them do. */
function weightOf(having: number, passages: number): number {
  return Math.log(1 + (Math.max(passages - having, 0) + 0.5) / (having + 0.5));
}

function timesIn(words: string, term: string): number {
  const [within, looked] = [` ${words} `, ` ${term} `];
  let times = 0;
  // the space behind one word is the space before the next
  for (let at = within.indexOf(looked); at >= 0; at = within.indexOf(looked, at + looked.length - 1)) times += 1;
  return times;
}
