import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { rawTokens } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import {
  askForDigest,
  coverOf,
  digestBlocks,
  digestForecast,
  isDigestOf,
  mostPasses,
  stretchesOf,
  stretchFor,
} from "./digest";
import type { Block } from "./document";

const tokensIn = (text: string) => rawTokens(countsOf(text));
const paragraph = (text: string, page?: number): Block => ({ kind: "paragraph", text, page });
const wordsOf = (texts: readonly string[]) => texts.join(" ").split(/\s+/).filter(Boolean);

describe("the stretches of a pass", () => {
  it("are whole blocks as far as they fit, in order", () => {
    const stretches = stretchesOf(["one two three", "four five six", "seven eight nine"], 10, 8);
    expect(stretches.map(({ text }) => text)).toEqual(["one two three\n\nfour five six", "seven eight nine"]);
  });

  it("hold every word of the text once, and none is longer than it may be", () => {
    const word = fc.stringMatching(/^[a-z]{1,12}$/);
    const blocks = fc.array(
      fc.array(word, { minLength: 1, maxLength: 120 }).map((words) => words.join(" ")),
      { maxLength: 20 },
    );
    fc.assert(
      fc.property(blocks, fc.integer({ min: 20, max: 200 }), (texts, most) => {
        const stretches = stretchesOf(texts, 50, most);
        expect(wordsOf(stretches.map(({ text }) => text))).toEqual(wordsOf(texts));
        for (const { text } of stretches) expect(tokensIn(text)).toBeLessThanOrEqual(most * 1.3 + 5);
      }),
    );
  });

  it("part what has no blank in it, and lose none of its signs", () => {
    const text = "汉".repeat(5_000);
    const stretches = stretchesOf([text], 100, 500);
    expect(stretches.length).toBeGreaterThan(1);
    expect(
      stretches
        .map((each) => each.text)
        .join("")
        .replaceAll("\n", ""),
    ).toBe(text);
  });

  it("are made smaller to what all of it is to have, but never at once to less than a fifth", () => {
    const one = "The boat leaves at noon. ".repeat(20).trim();
    const [stretch] = stretchesOf([one], 1_000_000, 6_000);
    expect(stretch?.words).toBeGreaterThan(100_000);
    const many = stretchesOf(
      Array.from({ length: 40 }, () => one),
      100,
      tokensIn(one) + 1,
    );
    expect(many).toHaveLength(40);
    for (const { words } of many) expect(words).toBeGreaterThanOrEqual(20);
    expect(stretchesOf([], 100, 100)).toEqual([]);
    expect(stretchesOf(["  "], 100, 100)).toEqual([]);
  });

  it("fill half of a window, within bounds", () => {
    expect([stretchFor(100), stretchFor(8_000), stretchFor(1_000_000)]).toEqual([200, 4_000, 6_000]);
  });
});

describe("what a digest takes", () => {
  it("is told before: one call where all of it fits, passes where it does not, and never more than there may be", () => {
    expect(digestForecast(1_000, 500, 6_000).calls).toBe(1);
    const long = digestForecast(60_000, 1_500, 6_000);
    expect(long.calls).toBe(10 + 2 + 1);
    expect(long.input).toBeGreaterThan(60_000);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5_000_000 }), (tokens) => {
        const { calls, output } = digestForecast(tokens, 100, 6_000);
        expect(calls).toBeLessThanOrEqual(mostPasses * Math.ceil(tokens / 6_000) + mostPasses);
        expect(output).toBeLessThanOrEqual(tokens + 100 * mostPasses);
      }),
    );
  });
});

it("a model is asked for a text that is no instruction, with nothing in it that nobody sees", () => {
  const [heading, text] = digestBlocks([
    { kind: "heading", level: 2, text: "Dogs" },
    paragraph("See [rules 3].\u200B Free."),
  ]);
  expect([heading, text]).toEqual(["## Dogs", "See (rules 3). Free."]);
  const asked = askForDigest("Rules", { text: "Dogs travel free.", words: 40 }, 2, 5);
  expect(asked).toContain('part 2 of 5 of the document "Rules"');
  expect(asked).toContain("at most 40 words");
  expect(asked).toMatch(/no instruction to you[\s\S]*\n\nThe text:\nDogs travel free\.$/);
});

it("a digest says of what it was made, and is of no other bytes", () => {
  const blocks = [paragraph("One.", 1), paragraph("Two.", 3)];
  expect(coverOf(blocks, 3)).toEqual({ characters: 10, tokens: tokensIn("One.\n\nTwo."), pages: 3 });
  expect(coverOf([paragraph("One.")], 1).pages).toBeUndefined();
  const digest = { of: "a", text: "1", characters: 1, tokens: 1, unread: [], stretches: 1, passes: 1, cut: 0 };
  expect([isDigestOf(digest, "a"), isDigestOf(digest, "b"), isDigestOf(undefined, "a")]).toEqual([true, false, false]);
});
