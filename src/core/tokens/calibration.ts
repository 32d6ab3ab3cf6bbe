import { z } from "zod";
import { type Counts, classes, type Holding } from "./counts";

/** Tokens that each class of characters counts for, and each message beside its text: its role and its borders. */
const weighted = [...classes, "message"] as const;
type Weighted = (typeof weighted)[number];
export type Weights = Record<Weighted, number>;
const size = weighted.length;

/**
 * What is known of how a model's provider counts tokens. It is a linear model, learned call by call with the Kalman
 * filter of a constant (recursive least squares), which knows how sure it is of each weight: an estimate of texts
 * like those that were counted before has a small margin, of others a wide one.
 */
export const calibrationSchema = z.object({
  weights: z.object(Object.fromEntries(weighted.map((name) => [name, z.number()])) as Record<Weighted, z.ZodNumber>),
  /** Covariances of the weights, row by row. */
  spread: z.array(z.number()).length(size * size),
  /** Reported counts that it was learned from. */
  calls: z.int(),
  /** How far off estimates were of late, as a share of what was reported; null until one could be compared. */
  off: z.number().nullable(),
});
export type Calibration = z.infer<typeof calibrationSchema>;

/** What tokenizers have in common, before anything is known of one; and how far from that one may be. */
const before: Record<Weighted, { weight: number; spread: number }> = {
  words: { weight: 0.3, spread: 0.4 },
  letters: { weight: 0.15, spread: 0.1 },
  runs: { weight: 0.2, spread: 0.5 },
  signs: { weight: 0.6, spread: 0.5 },
  digits: { weight: 1, spread: 0.5 },
  strokes: { weight: 0.3, spread: 0.4 },
  marks: { weight: 0.5, spread: 0.4 },
  gaps: { weight: 0.1, spread: 0.4 },
  ends: { weight: 0.3, spread: 0.5 },
  blanks: { weight: 0.1, spread: 0.2 },
  calls: { weight: 16, spread: 8 },
  pictures: { weight: 80, spread: 60 },
  tiles: { weight: 100, spread: 80 },
  kilopixels: { weight: 0.2, spread: 0.4 },
  message: { weight: 4, spread: 2 },
};

/** What one count is off by though the weights are right, as a share of it: words of the same length differ. */
const noise = 0.015;
/** Counts of fewer tokens are as uncertain as those of so many. */
const leastTokens = 20;
/** No tokenizer is further from the first estimate than this. What is was counted wrong, and nothing is learned from it. */
const furthest = 10;
/** How many margins one count can be from the estimate and still pull with all its weight. */
const pull = 3;
/** What is known is a little less sure with each call, so that a provider which counts in another way is followed. */
const fade = 0.0005;
/** The share of the last call in what is said of how far off estimates were. */
const share = 0.1;

/** Nothing learned yet. */
export const uncalibrated: Calibration = {
  weights: mapped((name) => before[name].weight),
  spread: weighted.flatMap((one) => weighted.map((other) => (one === other ? before[one].spread ** 2 : 0))),
  calls: 0,
  off: null,
};

/** The estimated tokens of a holding, not rounded, 0 or more. */
export function tokensOf({ counts, messages }: Holding, { weights }: Pick<Calibration, "weights">): number {
  let tokens = weights.message * messages;
  for (const name of classes) tokens += weights[name] * counts[name];
  return Math.max(tokens, 0);
}

/** A calibration that is sure of some weights, which are known from elsewhere. */
export function withKnown(calibration: Calibration, known: Partial<Weights>): Calibration {
  const isKnown = weighted.map((name) => known[name] !== undefined);
  return {
    ...calibration,
    weights: { ...calibration.weights, ...known },
    spread: calibration.spread.map((each, place) =>
      isKnown[Math.floor(place / size)] || isKnown[place % size] ? 0 : each,
    ),
  };
}

/** The estimated tokens of a text, not rounded. */
export function tokensOfCounts(counts: Counts, calibration: Pick<Calibration, "weights">): number {
  return tokensOf({ counts, messages: 0 }, calibration);
}

/** The estimated tokens of a text before anything is known of a model, in whole tokens: 1 or more for a text that says anything. */
export function rawTokens(counts: Counts): number {
  return Math.ceil(tokensOfCounts(counts, uncalibrated));
}

/** Tokens that an estimate may be off by to either side, in 19 of 20 cases; not rounded. */
export function marginOf(holding: Holding, calibration: Calibration): number {
  const vector = vectorOf(holding);
  const noisy = noise * Math.max(tokensOf(holding, calibration), leastTokens);
  return 2 * Math.sqrt(Math.max(product(vector, timesSpread(calibration, vector)), 0) + noisy ** 2);
}

/**
 * The calibration after one more count was reported; the same where that can't be right.
 * @param reported whole tokens
 */
export function learned(calibration: Calibration, holding: Holding, reported: number): Calibration {
  const first = tokensOf(holding, uncalibrated);
  if (!(first > 0 && reported >= first / furthest && reported <= first * furthest)) return calibration;
  const vector = vectorOf(holding);
  const spreadTimes = timesSpread(calibration, vector);
  const noisy = (noise * Math.max(reported, leastTokens)) ** 2;
  const variance = product(vector, spreadTimes) + noisy;
  const miss = reported - tokensOf(holding, calibration);
  const most = pull * Math.sqrt(variance);
  const step = Math.min(Math.max(miss, -most), most) / variance;
  const off = Math.abs(miss) / reported;
  const spread = calibration.spread.map((covariance, place) => {
    const [row, column] = [Math.floor(place / size), place % size];
    const faded = row === column ? fade * (uncalibrated.spread[place] ?? 0) : 0;
    return covariance - ((spreadTimes[row] ?? 0) * (spreadTimes[column] ?? 0)) / variance + faded;
  });
  const moved = weighted.map((name, at) => calibration.weights[name] + (spreadTimes[at] ?? 0) * step);
  const weights = notNegative(moved, spread);
  return {
    weights: mapped((_name, at) => weights[at] ?? 0),
    spread,
    calls: calibration.calls + 1,
    off:
      calibration.calls === 0
        ? null
        : calibration.off === null
          ? off
          : calibration.off + (off - calibration.off) * share,
  };
}

/**
 * Weights of which none is below 0: no part of a text takes tokens away. One that is, is known to be 0 then, and those
 * that go with it are moved along.
 */
function notNegative(weights: readonly number[], spread: readonly number[]): number[] {
  let moved = [...weights];
  for (let round = 0; round < size; round += 1) {
    const least = Math.min(...moved);
    if (least >= 0) break;
    const at = moved.indexOf(least);
    const own = spread[at * size + at] ?? 0;
    if (own <= 0) break;
    moved = moved.map((weight, other) => weight - (least * (spread[other * size + at] ?? 0)) / own);
    moved[at] = 0;
  }
  return moved.map((weight) => Math.max(weight, 0));
}

function mapped(value: (name: Weighted, at: number) => number): Weights {
  return Object.fromEntries(weighted.map((name, at) => [name, value(name, at)])) as Weights;
}

function vectorOf({ counts, messages }: Holding): number[] {
  return [...classes.map((name) => counts[name]), messages];
}

function timesSpread({ spread }: Calibration, vector: readonly number[]): number[] {
  return vector.map((_, row) => product(vector, spread.slice(row * size, (row + 1) * size)));
}

function product(a: readonly number[], b: readonly number[]): number {
  return a.reduce((sum, value, at) => sum + value * (b[at] ?? 0), 0);
}
