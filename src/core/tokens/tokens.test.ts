import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { calibrate, calibrated, uncalibrated } from "./calibration";
import { added, countsOf, rawTokens, tokensOf } from "./counts";
import { priceOf } from "./price";

describe("estimating tokens", () => {
  it.each([
    ["", 0],
    ["The boat runs", 3],
    ["accommodation", 3],
    ["1234", 2],
    ["Yes, it runs.", 5],
    ["渡し船", 3],
  ])("%j has about %i", (text, tokens) => {
    expect(rawTokens(countsOf(text))).toBe(tokens);
    expect(tokensOf(text, { ratio: 2, calls: 1 })).toBe(tokens * 2);
  });

  it("counts two texts, parted by a space, as the sum of both", () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (a, b) => {
        expect(countsOf(`${a} ${b}`)).toEqual(added(countsOf(a), countsOf(b)));
      }),
    );
  });
});

describe("calibration", () => {
  it("comes to the ratio that a provider keeps", () => {
    let learned = uncalibrated;
    for (let call = 0; call < 20; call++) learned = calibrate(learned, 100, 130);
    expect(calibrated(200, learned)).toBe(260);
  });

  it("follows a provider that changes how it counts", () => {
    let learned = { ratio: 1, calls: 500 };
    for (let call = 0; call < 50; call++) learned = calibrate(learned, 100, 200);
    expect(learned.ratio).toBeGreaterThan(1.95);
  });

  it("forgets a call that is far off, and learns nothing from one that can't be", () => {
    const known = { ratio: 1.2, calls: 30 };
    expect(calibrate(known, 100, 100_000_000)).toBe(known);
    expect(calibrate(known, 100, Number.POSITIVE_INFINITY)).toBe(known);
    let learned = calibrate(known, 100, 900);
    expect(learned.ratio).toBeLessThan(1.35);
    for (let call = 0; call < 10; call++) learned = calibrate(learned, 100, 120);
    expect(learned.ratio).toBeCloseTo(1.2, 1);
  });

  it("learns nothing from a call without counts", () => {
    expect(calibrate(uncalibrated, 0, 10)).toBe(uncalibrated);
    expect(calibrate(uncalibrated, 10, 0)).toBe(uncalibrated);
  });
});

describe("price", () => {
  it("is per million tokens, input and output apart", () => {
    expect(priceOf({ input: 1_000_000, output: 500_000 }, { input: 2, output: 6, currency: "EUR" })).toBe(5);
  });
});
