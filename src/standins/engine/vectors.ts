import kin from "./known/kin.json" with { type: "json" };

/** Numbers of a vector. */
export const dimensions = 256;

/**
 * What makes two texts alike: words that mean much the same count most, then the word itself, then the three letters in a
 * row that other forms of it, and slips of the pen, share.
 */
const weights = { kin: 1.2, word: 1, letters: 0.45 };

/** Words that every text has, which say nothing of what it is about. */
const small = new Set(
  "a an the and or of to in on at for from with by is are was be do does did it its this that there i you we they my your what which who how as if not no can will have has had".split(
    " ",
  ),
);

/** The groups of kindred words that each word belongs to. */
const groups = new Map<string, number[]>();
for (const [group, words] of kin.entries())
  for (const word of words) groups.set(word, [...(groups.get(word) ?? []), group]);

/**
 * A text as a vector of length one: what its words mean, the words, and each three letters in a row add to numbers that
 * their hash picks, so that texts about the same point the same way.
 */
export function vectorOf(text: string): number[] {
  const vector = new Array<number>(dimensions).fill(0);
  const add = (part: string, weight: number) => {
    const hash = hashOf(part);
    const at = hash % dimensions;
    vector[at] = (vector[at] ?? 0) + (hash & 0x10000 ? weight : -weight);
  };
  for (const word of text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? []) {
    if (small.has(word)) continue;
    add(word, weights.word);
    for (const group of groupsOf(word)) add(`kin ${group}`, weights.kin);
    const edged = `_${word}_`;
    for (let at = 0; at + 3 <= edged.length; at++) add(edged.slice(at, at + 3), weights.letters);
  }
  const length = Math.hypot(...vector);
  return vector.map((number) => (length === 0 ? 0 : Math.round((number / length) * 1e6) / 1e6));
}

/** The groups of a word, or of the word that it is a form of. */
function groupsOf(word: string): readonly number[] {
  for (const form of [
    word,
    word.replace(/s$/, ""),
    word.replace(/(?:es|ed|ing)$/, ""),
    word.replace(/(?:ed|ing)$/, "e"),
  ]) {
    const found = groups.get(form);
    if (found) return found;
  }
  return [];
}

/** FNV-1a over the units of a text, 32 bits. */
function hashOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return hash >>> 0;
}
