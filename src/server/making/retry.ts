import type { Problem } from "@/core/problem/problem";

/** Kinds of failure after which the same call can go better a moment later. */
const passing = new Set<Problem["kind"]>(["unreachable", "rate-limited", "overloaded", "timed-out"]);
/** Seconds before the second try where the provider does not say; doubled each time. */
const firstWait = 0.5;
/** Seconds that are waited at most for a provider that asks for it. */
const longestWait = 60;

/** What is done after a call that failed before any text. */
export type Step =
  /** The call is made once more, unchanged, after so many seconds. */
  | { kind: "again"; after: number }
  /** The call is made once more with another token: one can be taken back before its time. */
  | { kind: "renew" }
  | { kind: "give-up" };

/**
 * What is done after a failure.
 * @param tries how often the call was made before this time
 * @param hasToken whether it was made with a token that can be fetched anew
 * @param chance from 0 to 1, so that several that wait do not come back at one moment
 */
export function stepAfter(
  failure: Problem,
  { tries, retries, hasToken, chance }: { tries: number; retries: number; hasToken: boolean; chance: number },
): Step {
  if (failure.kind === "unauthorised" && hasToken && tries === 0) return { kind: "renew" };
  if (!passing.has(failure.kind) || tries >= retries) return { kind: "give-up" };
  const after = failure.retryAfter ?? firstWait * 2 ** tries * (0.75 + chance / 2);
  return after <= longestWait ? { kind: "again", after } : { kind: "give-up" };
}
