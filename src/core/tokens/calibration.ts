/** What a model's provider reported so far, against what was estimated for the same calls. */
export interface Calibration {
  /** Reported tokens per estimated token; 1 until something is known. */
  ratio: number;
  /** Calls that it was learned from. */
  calls: number;
}

/** Nothing learned yet. */
export const uncalibrated: Calibration = { ratio: 1, calls: 0 };

/** The calibration after one more call; later calls weigh at least a tenth, so that it follows changes. */
export function calibrate(before: Calibration, estimated: number, reported: number): Calibration {
  if (estimated <= 0 || reported <= 0) return before;
  const weight = Math.max(1 / (before.calls + 1), 0.1);
  return { ratio: before.ratio + (reported / estimated - before.ratio) * weight, calls: before.calls + 1 };
}

/** An estimate put right by what was learned, in whole tokens. */
export function calibrated(estimate: number, calibration: Calibration): number {
  return Math.round(estimate * calibration.ratio);
}
