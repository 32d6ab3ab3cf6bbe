/** A repeatable source of choices: the same seed gives the same sequence. */
export interface Choices {
  /** A number from 0 up to, not including, 1. */
  next(): number;
  /** One of a list that is not empty. */
  one<T>(list: readonly T[]): T;
  /** One of each of two lists, so that seeds that follow one another never give the same pair twice in a row of them. */
  pair<T>(first: readonly T[], second: readonly T[]): [T, T];
}

/** How freely a model chooses among its wordings. */
export interface Freedom {
  /** 0 takes the first always, 1 any; in between the first ones more often. */
  temperature?: number;
  /** The share of the wordings that come into question. */
  topP?: number;
  /** The number of the wordings that come into question. */
  topK?: number;
}

/** Choices from a 32-bit seed (mulberry32). */
export function choicesFrom(
  seed: number,
  { temperature = 1, topP = 1, topK = Number.POSITIVE_INFINITY }: Freedom = {},
): Choices {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
  const countOf = (list: readonly unknown[]) => Math.max(Math.min(topK, Math.ceil(topP * list.length)), 1);
  const one = <T>(list: readonly T[]) => {
    const count = countOf(list);
    const place = temperature <= 0 ? 0 : next() ** (1 / Math.min(temperature, 1));
    return list[Math.floor(place * count)] as T;
  };
  const pair = <T>(first: readonly T[], second: readonly T[]): [T, T] => {
    const [a, b] = [countOf(first), countOf(second)];
    const at = temperature <= 0 ? 0 : seed >>> 0;
    return [first[at % a] as T, second[Math.floor(at / a) % b] as T];
  };
  return { next, one, pair };
}

/** A 32-bit seed for a text (FNV-1a). */
export function seedOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return hash >>> 0;
}
