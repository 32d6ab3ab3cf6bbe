import { z } from "zod";
import type { TokenCounts } from "../reply/events";

const rate = z.number().min(0).max(1_000_000_000);

/** What a model costs, per million tokens, in `currency` (ISO 4217). What is not said costs as much as the rest of its side. */
export const pricesSchema = z.strictObject({
  input: rate,
  output: rate,
  /** Of input that the provider had in its cache, and of input that it puts there. */
  cachedInput: rate.optional(),
  cacheWrite: rate.optional(),
  /** Of output that is reasoning. */
  thought: rate.optional(),
  currency: z.string().length(3),
  /** Nobody has set it: what it comes to is not known, and not nothing. */
  isUnset: z.literal(true).optional(),
});
export type Prices = z.infer<typeof pricesSchema>;

/** What a model costs of which nobody has said it. */
export const unsetPrices: Prices = { input: 0, output: 0, currency: "EUR", isUnset: true };

/** The price of a call in the currency of `prices`, to the millionth: so prices add up to the last digit. */
export function priceOf(counts: TokenCounts, prices: Prices): number {
  const { input, output, cachedInput = 0, cacheWrite = 0, thought = 0 } = counts;
  const cached = Math.min(cachedInput, input);
  const written = Math.min(cacheWrite, input - cached);
  const thinking = Math.min(thought, output);
  const millionths =
    (input - cached - written) * prices.input +
    cached * (prices.cachedInput ?? prices.input) +
    written * (prices.cacheWrite ?? prices.input) +
    (output - thinking) * prices.output +
    thinking * (prices.thought ?? prices.output);
  return Math.round(millionths) / 1_000_000;
}

/** What a call comes to at the dearest of those who may answer it; undefined where the price of one is not set. */
export function dearestOf(counts: TokenCounts, speakers: readonly Prices[]): number | undefined {
  if (speakers.some(({ isUnset }) => isUnset)) return undefined;
  return Math.max(0, ...speakers.map((prices) => priceOf(counts, prices)));
}
