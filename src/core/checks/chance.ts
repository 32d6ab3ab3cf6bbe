/**
 * What trials tell. A check holds or breaks in each of its trials; whether one candidate is worse than another is
 * asked of the counts by Fisher's exact test, one-sided: how likely so great a difference is where there is none.
 */

/** How a check came out: trials that held, of those that were judged. */
export interface Tally {
  held: number;
  of: number;
}

/** A difference that chance brings about less often than this is more than chance. */
export const significance = 0.05;
/** How surely more trials should tell a difference that is there. */
const power = 0.9;
/** Trials that are asked for at most. */
export const mostTrials = 200;

/**
 * Wilson's interval of the share that holds, at 95% (Wilson 1927).
 * @returns from 0 to 1
 */
export function interval({ held, of }: Tally): { low: number; high: number } {
  if (of === 0) return { low: 0, high: 1 };
  const z = 1.959964;
  const share = held / of;
  const middle = (share + (z * z) / (2 * of)) / (1 + (z * z) / of);
  const half = (z / (1 + (z * z) / of)) * Math.sqrt((share * (1 - share)) / of + (z * z) / (4 * of * of));
  return { low: Math.max(0, middle - half), high: Math.min(1, middle + half) };
}

/** How likely a candidate comes out so much worse than another, or worse still, where both are the same (Fisher 1922). */
export function chanceOfWorse(base: Tally, other: Tally): number {
  const of = base.of + other.of;
  const broke = of - base.held - other.held;
  const seen = other.of - other.held;
  let sum = 0;
  for (let each = seen; each <= Math.min(broke, other.of); each++)
    sum += Math.exp(logChoose(other.of, each) + logChoose(base.of, broke - each) - logChoose(of, broke));
  return Math.min(sum, 1);
}

function logChoose(of: number, some: number): number {
  if (some < 0 || some > of) return Number.NEGATIVE_INFINITY;
  return logFactorial(of) - logFactorial(some) - logFactorial(of - some);
}

const logFactorials = [0];

function logFactorial(of: number): number {
  for (let at = logFactorials.length; at <= of; at++)
    logFactorials.push((logFactorials[at - 1] as number) + Math.log(at));
  return logFactorials[of] as number;
}

/** How a candidate stands to another one. */
export type Standing =
  | { kind: "worse" }
  | {
      kind: "perhaps-worse" /** Further trials of each that would tell; null where more than can be asked for. */;
      more: number | null;
    }
  | { kind: "better" }
  | { kind: "same" }
  /** One of them was not judged. */
  | { kind: "unknown" };

/** How a candidate stands to the one that it is held against. */
export function standingTo(base: Tally, other: Tally): Standing {
  if (base.of === 0 || other.of === 0) return { kind: "unknown" };
  if (chanceOfWorse(base, other) < significance) return { kind: "worse" };
  if (chanceOfWorse(other, base) < significance) return { kind: "better" };
  if (other.held / other.of < base.held / base.of) return { kind: "perhaps-worse", more: moreTrials(base, other) };
  return { kind: "same" };
}

/**
 * How many further trials of each would tell whether a candidate is worse, nine times in ten, if it is. Few trials
 * exaggerate: so the difference is taken to be three quarters of what was seen.
 */
export function moreTrials(base: Tally, other: Tally): number | null {
  const baseBreaks = 1 - base.held / base.of;
  const breaks = baseBreaks + 0.75 * (1 - other.held / other.of - baseBreaks);
  for (let of = Math.max(base.of, other.of) + 1; of <= mostTrials; of++)
    if (chanceOfTelling(baseBreaks, breaks, of) >= power) return of - Math.min(base.of, other.of);
  return null;
}

/** How likely it is that trials tell a difference, where candidates break with these shares. */
function chanceOfTelling(baseBreaks: number, breaks: number, of: number): number {
  let sum = 0;
  for (let base = 0; base <= of; base++) {
    const ofBase = binomial(of, base, baseBreaks);
    if (ofBase < 1e-6) continue;
    for (let other = base; other <= of; other++) {
      if (chanceOfWorse({ held: of - base, of }, { held: of - other, of }) >= significance) continue;
      // with more that break it tells as well
      for (let each = other; each <= of; each++) sum += ofBase * binomial(of, each, breaks);
      break;
    }
  }
  return sum;
}

function binomial(of: number, some: number, share: number): number {
  if (share <= 0) return some === 0 ? 1 : 0;
  if (share >= 1) return some === of ? 1 : 0;
  return Math.exp(logChoose(of, some) + some * Math.log(share) + (of - some) * Math.log(1 - share));
}

/** Whether a check passes with what its trials gave; undefined where none was judged. */
export function passes({ held, of }: Tally, least: { held: number; of: number } | null): boolean | undefined {
  if (of === 0) return undefined;
  return least === null ? held === of : held >= Math.ceil((least.held / least.of) * of - 1e-9);
}
