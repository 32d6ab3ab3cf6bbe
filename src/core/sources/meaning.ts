/**
 * Search by meaning: a text is a point in a space that a model makes (its vector), and texts that mean much the same are
 * near each other. All vectors here have length one, so that their scalar product is the cosine of the angle between
 * them: 1 for the same direction, 0 for nothing in common.
 */

/** Vectors of passages, one after the other, and the passages' ids in the same order. */
export interface Matrix {
  ids: readonly number[];
  /** Numbers of one vector. */
  length: number;
  numbers: Float32Array;
}

/** A passage, and how near it is: the cosine. */
export interface Near {
  id: number;
  likeness: number;
}

/** What stands for a passage where its vector is made: its headings, and its text. */
export function textForVector(text: string, headings: readonly string[]): string {
  return [...headings, text].join("\n");
}

/** A vector of length one; undefined for one that points nowhere. */
export function unitVector(vector: ArrayLike<number>): Float32Array | undefined {
  const unit = Float32Array.from(vector);
  let sum = 0;
  for (const number of unit) sum += number * number;
  const length = Math.sqrt(sum);
  if (!(length > 0) || !Number.isFinite(length)) return undefined;
  for (let at = 0; at < unit.length; at++) unit[at] = (unit[at] as number) / length;
  return unit;
}

/** The cosine between two vectors of length one. */
export function cosine(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let at = 0; at < a.length; at++) sum += (a[at] as number) * (b[at] as number);
  return sum;
}

/** The passages that are nearest to a vector, the nearest first. @param most how many */
export function nearestIn(matrices: readonly Matrix[], query: Float32Array, most: number): Near[] {
  const nearest: Near[] = [];
  let least = Number.NEGATIVE_INFINITY;
  for (const { ids, length, numbers } of matrices) {
    if (length !== query.length) continue;
    for (let row = 0; row < ids.length; row++) {
      const from = row * length;
      let likeness = 0;
      for (let at = 0; at < length; at++) likeness += (numbers[from + at] as number) * (query[at] as number);
      if (likeness <= least && nearest.length === most) continue;
      insert(nearest, { id: ids[row] as number, likeness });
      if (nearest.length > most) nearest.pop();
      least = nearest[nearest.length - 1]?.likeness ?? least;
    }
  }
  return nearest;
}

function insert(nearest: Near[], near: Near): void {
  let at = nearest.length;
  while (at > 0 && (nearest[at - 1] as Near).likeness < near.likeness) at -= 1;
  nearest.splice(at, 0, near);
}

/** By how much a rank counts for less than the one before: as in "Reciprocal Rank Fusion" (Cormack, Clarke, Büttcher, 2009). */
const damping = 60;
/** How near a passage has to be that has none of the words, as a share of how near the nearest is. */
const leastNear = 0.5;

/**
 * Two orders of passages as one: each passage counts for its places in both, and in neither for how far it is ahead, since
 * words and meaning are measured in different things.
 * @param byWords the best first
 * @param byMeaning the nearest first
 * @returns the best first, with how well each fits: 1 for the best
 */
export function mergedRanks(byWords: readonly number[], byMeaning: readonly Near[]): Near[] {
  const sums = new Map<number, number>();
  const count = (id: number, at: number) => sums.set(id, (sums.get(id) ?? 0) + 1 / (damping + at + 1));
  for (const [at, id] of byWords.entries()) count(id, at);
  const nearest = byMeaning[0]?.likeness ?? 0;
  const worded = new Set(byWords);
  for (const [at, { id, likeness }] of byMeaning.entries())
    if (worded.has(id) || likeness >= nearest * leastNear) count(id, at);
  const best = Math.max(...sums.values(), Number.MIN_VALUE);
  return [...sums]
    .map(([id, sum]) => ({ id, likeness: sum / best }))
    .sort((a, b) => b.likeness - a.likeness || a.id - b.id);
}
