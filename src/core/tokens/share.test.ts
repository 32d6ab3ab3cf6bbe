import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { priceOf } from "./price";
import { sharesOf } from "./share";

const prices = { input: 0.4, output: 1.6, currency: "EUR" };
const usageOf = (input: number, output: number) => ({
  input,
  output,
  estimated: false,
  price: priceOf({ input, output }, prices),
  currency: "EUR",
});

describe("shares of takes that came of one call", () => {
  it("add up to what the call used, to the token and the millionth", () => {
    const tokens = fc.nat(100_000);
    fc.assert(
      fc.property(
        tokens,
        tokens,
        fc.array(fc.nat(10_000), { minLength: 1, maxLength: 10 }),
        (input, output, weights) => {
          const usage = usageOf(input, output);
          const shares = sharesOf(usage, weights, prices);
          const sum = (of: (share: (typeof shares)[0]) => number) => shares.reduce((all, share) => all + of(share), 0);
          expect([shares.length, sum((share) => share.input), sum((share) => share.output)]).toEqual([
            weights.length,
            input,
            output,
          ]);
          expect(sum((share) => Math.round(share.price * 1_000_000))).toBe(Math.round(usage.price * 1_000_000));
          expect(shares.every((share) => share.input >= 0 && share.output >= 0 && share.price >= 0)).toBe(true);
        },
      ),
    );
  });

  it("go by the length of the takes", () => {
    expect(sharesOf(usageOf(100, 90), [2, 1], prices)).toMatchObject([
      { input: 50, output: 60 },
      { input: 50, output: 30 },
    ]);
  });
});
