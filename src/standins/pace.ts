import { setTimeout as wait } from "node:timers/promises";

/** How fast a model speaks. */
export interface Pace {
  /** Milliseconds to the first token. */
  firstMs: number;
  tokensPerSecond: number;
}

/** No waiting at all, for tests. */
export const instant: Pace = { firstMs: 0, tokensPerSecond: Number.POSITIVE_INFINITY };

/**
 * Calls `say` for each part at the pace, with a little jitter, and stops when told so. The delays
 * are kept against the clock, so a slow receiver does not slow the model down for good.
 * @param hurried once it is aborted, the rest is said at once
 * @param from when the call came (`performance.now()`): what the answer took to make is part of the first wait
 */
export async function paced(
  parts: readonly string[],
  pace: Pace,
  jitter: () => number,
  signal: AbortSignal,
  say: (part: string, at: number) => void,
  from = performance.now(),
  hurried?: AbortSignal,
): Promise<void> {
  const eitherWay = hurried ? AbortSignal.any([signal, hurried]) : signal;
  const gap = 1000 / pace.tokensPerSecond;
  let due = from + pace.firstMs;
  for (const [at, part] of parts.entries()) {
    const left = due - performance.now();
    // what hurries it ends the wait as its end does
    if (left > 1 && !eitherWay.aborted) await wait(left, undefined, { signal: eitherWay }).catch(() => undefined);
    signal.throwIfAborted();
    say(part, at);
    due += gap * (0.7 + 0.6 * jitter());
  }
}
