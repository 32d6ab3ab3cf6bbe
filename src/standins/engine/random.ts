/** A repeatable source of choices: the same seed gives the same sequence. */
export interface Choices {
  /** A number from 0 up to, not including, 1. */
  next(): number;
  /** One of a list that is not empty. */
  one<T>(list: readonly T[]): T;
}

/** Choices from a 32-bit seed (mulberry32). */
export function choicesFrom(seed: number): Choices {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
  return { next, one: (list) => list[Math.floor(next() * list.length)] as (typeof list)[number] };
}

/** A 32-bit seed for a text (FNV-1a). */
export function seedOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return hash >>> 0;
}
