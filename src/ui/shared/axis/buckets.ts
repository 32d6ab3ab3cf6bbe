/** Something that came at a moment. */
export interface Moment {
  /** Milliseconds since the axis begins. */
  at: number;
  /** How much came; 1 where that is not known. */
  size?: number;
}

/**
 * Moments on an axis that ends somewhere, gathered into so many buckets of the same length: how much came in each. What
 * came at the end or after it is in the last.
 */
export function bucketsOf(moments: readonly Moment[], end: number, count: number): number[] {
  const buckets = new Array<number>(count).fill(0);
  for (const { at, size = 1 } of moments) {
    const place = Math.min(Math.max(Math.floor((at / end) * count), 0), count - 1);
    buckets[place] = (buckets[place] ?? 0) + size;
  }
  return buckets;
}

/**
 * Bars for buckets as one path, in a box of `count` by `height`: each a little narrower than its bucket, and as high as
 * it holds of the most that one does; what holds anything is seen.
 * @param most that one holds, where it is drawn beside others
 */
export function pathOf(
  buckets: readonly number[],
  height: number,
  width = 0.7,
  most = Math.max(...buckets, 0),
): string {
  if (most === 0) return "";
  const least = height / 4;
  return buckets
    .flatMap((size, at) => {
      if (size <= 0) return [];
      const high = Math.round((least + (height - least) * (size / most)) * 100) / 100;
      return [`M${at} ${height}v${-high}h${width}v${high}z`];
    })
    .join("");
}
