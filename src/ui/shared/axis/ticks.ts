/** Steps between ticks of an axis, in milliseconds. */
const steps = [50, 100, 200, 500, 1_000, 2_000, 5_000, 10_000, 20_000, 30_000, 60_000, 120_000, 300_000];
const mostTicks = 8;

/** Where an axis of so many milliseconds has its ticks: at round moments, up to eight of them. */
export function ticksOf(end: number): number[] {
  const step = steps.find((each) => end / each <= mostTicks) ?? Math.ceil(end / mostTicks / 60_000) * 60_000;
  return Array.from({ length: Math.floor(end / step) }, (_, at) => (at + 1) * step).filter((at) => at < end);
}
