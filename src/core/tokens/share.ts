import type { Usage } from "../reply/events";
import { type Prices, priceOf } from "./price";

/**
 * What each of several takes of one call used, by the length of its words: what was sent is shared evenly. Tokens
 * and millionths of the price add up to those of the call.
 * @param weights of each take, 0 or more
 */
export function sharesOf(usage: Usage, weights: readonly number[], prices: Prices): Usage[] {
  if (weights.length === 1) return [usage];
  const evenly = weights.map(() => 1);
  const some = weights.some((weight) => weight > 0) ? weights : evenly;
  const parts = {
    input: split(usage.input, evenly),
    output: split(usage.output, some),
    cachedInput: usage.cachedInput === undefined ? undefined : split(usage.cachedInput, evenly),
    cacheWrite: usage.cacheWrite === undefined ? undefined : split(usage.cacheWrite, evenly),
    thought: usage.thought === undefined ? undefined : split(usage.thought, some),
  };
  const counts = weights.map((_, at) => ({
    input: parts.input[at] as number,
    output: parts.output[at] as number,
    cachedInput: parts.cachedInput?.[at],
    cacheWrite: parts.cacheWrite?.[at],
    thought: parts.thought?.[at],
  }));
  const paid = split(
    Math.round(usage.price * 1_000_000),
    counts.map((each) => priceOf(each, prices)),
  );
  return counts.map((each, at) => ({ ...usage, ...each, price: (paid[at] as number) / 1_000_000 }));
}

/** A whole number in whole parts by their weights, which add up to it. */
function split(whole: number, weights: readonly number[]): number[] {
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  let [passed, given] = [0, 0];
  return weights.map((weight, at) => {
    passed += all === 0 ? 1 / weights.length : weight / all;
    const upTo = at === weights.length - 1 ? whole : Math.round(whole * passed);
    const part = Math.max(upTo - given, 0);
    given += part;
    return part;
  });
}
