/** Numbers of a vector. */
export const dimensions = 96;

/** What makes two texts alike: a word counts more than the three letters in a row that other forms of it share. */
const weights = { word: 1, letters: 0.35 };

/**
 * A text as a vector of length one: its words and each three letters in a row add to numbers that their hash picks, so that
 * texts with the same words, or other forms of them, point the same way.
 */
export function vectorOf(text: string): number[] {
  const vector = new Array<number>(dimensions).fill(0);
  const add = (part: string, weight: number) => {
    const hash = hashOf(part);
    const at = hash % dimensions;
    vector[at] = (vector[at] ?? 0) + (hash & 0x10000 ? weight : -weight);
  };
  for (const word of text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? []) {
    add(word, weights.word);
    const edged = `_${word}_`;
    for (let at = 0; at + 3 <= edged.length; at++) add(edged.slice(at, at + 3), weights.letters);
  }
  const length = Math.hypot(...vector);
  return vector.map((number) => (length === 0 ? 0 : Math.round((number / length) * 1e6) / 1e6));
}

/** FNV-1a over the units of a text, 32 bits. */
function hashOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return hash >>> 0;
}
