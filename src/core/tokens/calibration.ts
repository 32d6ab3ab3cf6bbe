/** What a model's provider reported so far, against what was estimated for the same calls. */
export interface Calibration {
  /** Reported tokens per estimated token, from `leastRatio` to `mostRatio`; 1 until something is known. */
  ratio: number;
  /** Calls that it was learned from. */
  calls: number;
}

/** No tokenizer is further from the estimate than this. What is was counted wrong, and nothing is learned from it. */
const leastRatio = 0.1;
const mostRatio = 10;

/** How far one call can be from what is known and still pull with all its weight. */
const reach = 2;

/** Nothing learned yet. */
export const uncalibrated: Calibration = { ratio: 1, calls: 0 };

/**
 * The calibration after one more call. Later calls weigh at least a tenth, so that it follows changes;
 * one that is far off pulls no further than twice or half of what is known, and ten calls later
 * hardly at all.
 */
export function calibrate(before: Calibration, estimated: number, reported: number): Calibration {
  const seen = reported / estimated;
  if (!(seen >= leastRatio && seen <= mostRatio)) return before;
  const weight = Math.max(1 / (before.calls + 1), 0.1);
  const near = Math.min(Math.max(seen, before.ratio / reach), before.ratio * reach);
  return { ratio: before.ratio + (near - before.ratio) * weight, calls: before.calls + 1 };
}

/** An estimate put right by what was learned, in whole tokens. */
export function calibrated(estimate: number, calibration: Calibration): number {
  return Math.round(estimate * calibration.ratio);
}
