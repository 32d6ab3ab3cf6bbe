import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { learned, marginOf, rawTokens, tokensOf, uncalibrated } from "./calibration";
import { added, type Counts, classes, countsOf, noCounts, without } from "./counts";
import { priceOf } from "./price";

const holding = (text: string, messages = 0) => ({ counts: countsOf(text), messages });

describe("counting a text", () => {
  it.each<[string, Partial<Counts>]>([
    ["", {}],
    ["The boat", { words: 2, letters: 7, gaps: 1 }],
    ["1234 5", { digits: 3, gaps: 1 }],
    ["Yes, it is…", { words: 3, letters: 7, gaps: 2, strokes: 2, marks: 2 }],
    ["渡し船。ok", { runs: 1, signs: 3, strokes: 1, marks: 1, words: 1, letters: 2 }],
    ["a\n\n  b | 9\n", { words: 2, letters: 2, digits: 1, gaps: 2, ends: 2, blanks: 3, strokes: 1, marks: 1 }],
  ])("%j", (text, counts) => {
    expect(countsOf(text)).toEqual({ ...noCounts, ...counts });
  });

  it("counts two texts, parted by a mark, as the sum of both", () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), (a, b) => {
        const parts = [`${a}x`, ".", `x${b}`];
        const sum = parts.map(countsOf).reduce(added);
        expect(countsOf(parts.join(""))).toEqual(sum);
        expect(without(sum, countsOf(`${a}x`))).toEqual(added(countsOf("."), countsOf(`x${b}`)));
      }),
    );
  });
});

describe("estimating tokens", () => {
  it.each([
    ["The boat runs at half past nine", 7],
    ["accommodation", 2],
    ["渡し船は九時に出ます", 6],
  ])("%j has about %i before anything is known", (text, tokens) => {
    expect(rawTokens(countsOf(text))).toBeCloseTo(tokens, -0.5);
  });

  it("is of the parts what it is of the whole", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme" }), fc.nat(5), (text, messages) => {
        const of = (messages: number) => tokensOf(holding(text, messages), uncalibrated);
        expect(of(messages)).toBeCloseTo(of(0) + messages * uncalibrated.weights.message, 6);
      }),
    );
  });
});

describe("calibration", () => {
  const prose = holding("The boat to Brindle runs at half past nine, and there are eight places for bicycles.", 2);
  const signs = holding("渡し船は九時に出ます、自転車は八台まで乗せられます。", 2);

  it("comes to what a provider counts, and is then sure of texts like those, not of others", () => {
    const after = Array.from({ length: 5 }).reduce<typeof uncalibrated>((so) => learned(so, prose, 60), uncalibrated);
    expect(tokensOf(prose, after)).toBeCloseTo(60, 0);
    const sure = (of: typeof prose) => marginOf(of, after) / tokensOf(of, after);
    expect(sure(prose)).toBeLessThan(0.05);
    expect(sure(signs)).toBeGreaterThan(sure(prose) * 4);
    expect(after.off).toBeLessThan(0.2);
  });

  it("learns each class by itself", () => {
    const byLetters = ({ counts, messages }: typeof prose) => Math.round(counts.letters / 4 + counts.signs + messages);
    let known = uncalibrated;
    for (const of of [prose, signs, holding("one two three four", 1), prose, signs])
      known = learned(known, of, byLetters(of));
    const next = holding("Bicycles go for free. 自転車は無料です。", 1);
    expect(Math.abs(tokensOf(next, known) - byLetters(next))).toBeLessThan(3);
  });

  it("follows a provider that changes how it counts", () => {
    let known = uncalibrated;
    for (let call = 0; call < 200; call++) known = learned(known, prose, 30);
    for (let call = 0; call < 60; call++) known = learned(known, prose, 45);
    expect(tokensOf(prose, known)).toBeGreaterThan(43);
  });

  it("is moved little by a count that is far off, and not at all by one that can't be", () => {
    let known = uncalibrated;
    for (let call = 0; call < 20; call++) known = learned(known, prose, 30);
    expect(learned(known, prose, 100_000_000)).toBe(known);
    expect(learned(known, prose, Number.POSITIVE_INFINITY)).toBe(known);
    expect(learned(known, prose, 0)).toBe(known);
    expect(learned(known, holding(""), 10)).toBe(known);
    expect(tokensOf(prose, learned(known, prose, 200))).toBeLessThan(36);
  });

  it("never comes to less than nothing for any text, whatever is reported", () => {
    const texts = fc.array(fc.tuple(fc.string({ unit: "grapheme", minLength: 1 }), fc.nat(200)), { maxLength: 20 });
    fc.assert(
      fc.property(texts, (reports) => {
        const known = reports.reduce((so, [text, count]) => learned(so, holding(text, 1), count), uncalibrated);
        for (const name of classes) {
          const margin = marginOf({ counts: { ...noCounts, [name]: 10 }, messages: 0 }, known);
          expect(known.weights[name]).toBeGreaterThanOrEqual(0);
          expect(Number.isFinite(margin) && margin >= 0).toBe(true);
        }
      }),
    );
  });
});

describe("price", () => {
  const prices = { input: 2, output: 6, currency: "EUR" };

  it("is per million tokens, input and output apart, to the millionth", () => {
    expect(priceOf({ input: 1_000_000, output: 500_000 }, prices)).toBe(5);
    expect(priceOf({ input: 1, output: 1 }, { ...prices, input: 0.4 })).toBe(0.000006);
  });

  it("of what came from the cache, went into it, or was reasoning is its own, where there is one", () => {
    const counts = { input: 1_000_000, output: 1_000_000, cachedInput: 400_000, cacheWrite: 100_000, thought: 500_000 };
    expect(priceOf(counts, prices)).toBe(8);
    expect(priceOf(counts, { ...prices, cachedInput: 0.5, cacheWrite: 3, thought: 10 })).toBe(1 + 0.2 + 0.3 + 3 + 5);
  });

  it("never counts a part for more than its side", () => {
    const counts = { input: 10, output: 5, cachedInput: 100, cacheWrite: 100, thought: 100 };
    expect(priceOf(counts, { ...prices, cachedInput: 1, cacheWrite: 1, thought: 1 })).toBe(0.000015);
  });
});
