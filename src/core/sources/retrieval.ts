/** At which place a question found the passage that holds its answer, from 1; null where it did not. */
export type RetrievedAt = number | null;

/** The share of questions, in whole percent, whose passage is among the first so many that they find. */
export function shareAmong(places: readonly RetrievedAt[], first: number): number {
  const found = places.filter((place) => place !== null && place <= first).length;
  return places.length === 0 ? 0 : Math.round((found / places.length) * 100);
}

/** The mean of one over the place (mean reciprocal rank, as in TREC-8's question answering): 1 where all come first. */
export function meanReciprocalRank(places: readonly RetrievedAt[]): number {
  const sum = places.reduce<number>((all, place) => all + (place === null ? 0 : 1 / place), 0);
  return places.length === 0 ? 0 : sum / places.length;
}
