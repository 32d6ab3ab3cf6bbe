/** How some values spread: the quartiles are interpolated between neighbours. */
export interface Spread {
  count: number;
  least: number;
  lower: number;
  median: number;
  upper: number;
  most: number;
}

/** The spread of some values, in whatever order they stand; undefined where there are none. */
export function spreadOf(values: readonly number[]): Spread | undefined {
  if (values.length === 0) return undefined;
  const sorted = values.toSorted((a, b) => a - b);
  const at = (share: number) => {
    const place = share * (sorted.length - 1);
    const below = sorted[Math.floor(place)] ?? 0;
    return below + ((sorted[Math.ceil(place)] ?? 0) - below) * (place % 1);
  };
  return {
    count: sorted.length,
    least: at(0),
    lower: at(0.25),
    median: at(0.5),
    upper: at(0.75),
    most: at(1),
  };
}
