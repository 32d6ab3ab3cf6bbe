import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { compile, TooLarge } from "./automaton";
import { Finder } from "./finder";
import { flawOfPattern } from "./guard";
import { foundIn } from "./looking";
import { BadPattern, readPattern } from "./pattern";

/** All characters that belong to something that a pattern finds anywhere, as JavaScript's own engine says. */
function coveredBy(pattern: RegExp, text: string): boolean[] {
  const covered = Array.from(text, () => false);
  for (let from = 0; from < text.length; from += 1)
    for (let to = from + 1; to <= text.length; to += 1) {
      const before = text.slice(0, from);
      const whole = new RegExp(`^[^]{${before.length}}(?:${pattern.source})(?=[^]{${text.length - to}}$)`, "u");
      const ends = new RegExp(`^[^]{${before.length}}(?:${pattern.source})$`, "u");
      // edges of a word are asked of the whole text
      if (ends.test(text.slice(0, to)) && whole.test(text)) covered.fill(true, from, to);
    }
  return covered;
}

const patterns = ["ab+c?", "(?:a|ab)(?:c|bcd)", "a.c", "[a-c]{2,3}d", "(a|b)*d", "d[^a]a", "a{2}|d", "(?:ab){1,2}"];

describe("patterns", () => {
  test("find every character that JavaScript's own engine finds in any way", () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...patterns),
        fc.string({ unit: fc.constantFrom("a", "b", "c", "d"), maxLength: 12 }),
        (source, text) => {
          const found = foundIn(text, new Finder({ automaton: compile(readPattern(source, false)) }));
          const covered = Array.from(text, (_, at) => found.some(({ from, to }) => from <= at && at < to));
          expect(covered).toEqual(coveredBy(new RegExp(source, "u"), text));
        },
      ),
    );
  });

  test.each([
    [String.raw`\bkey\b`, "a key, monkey, keys", ["key"]],
    ["^key$", "key\nmonkey\nkey", ["key", "key"]],
    [String.raw`\p{Lu}{3}`, "ÄÖÜ abc", ["ÄÖÜ"]],
    [String.raw`(?<!\d)7(?![\d.])`, "17 7 7.5 7", ["7", "7"]],
    ["🛟+", "a 🛟🛟 b", ["🛟🛟"]],
  ])("%s", (source, text, expected) => {
    const found = foundIn(text, new Finder({ automaton: compile(readPattern(source, false)) }));
    expect(found.map(({ from, to }) => text.slice(from, to))).toEqual(expected);
  });

  test("take no longer for a pattern that makes others run away", () => {
    const finder = new Finder({ automaton: compile(readPattern("(a+)+b", false)) });
    // backtracking would try some 2^20000 ways
    expect(foundIn("a".repeat(20_000), finder)).toEqual([]);
  });

  test.each([
    ["(a", "can't be looked for: unterminated group"],
    [String.raw`(a)\1`, String.raw`can't be looked for: \1 refers back to what was found, which is not taken`],
    ["a(?=bc)", "can't be looked for: (?=bc) looks ahead or back by more than one character, which is not taken"],
    ["(?:a{1000}){1000}", "can't be looked for: its repetitions make it too large"],
  ])("%s is told to be none", (pattern, why) => {
    expect(flawOfPattern(pattern)).toBe(why);
  });

  test("throw what says why", () => {
    expect(() => readPattern("x".repeat(1_001), false)).toThrow(BadPattern);
    expect(() => compile(readPattern("a{5000}", false))).toThrow(TooLarge);
  });
});
