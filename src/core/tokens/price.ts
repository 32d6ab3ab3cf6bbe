import type { TokenCounts } from "../reply/events";

/** What a model costs, per million tokens, in `currency` (ISO 4217). */
export interface Prices {
  input: number;
  output: number;
  currency: string;
}

/** The price of a call in the currency of `prices`. */
export function priceOf(counts: TokenCounts, prices: Prices): number {
  return (counts.input * prices.input + counts.output * prices.output) / 1_000_000;
}
