import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { differencesOf } from "./differences";
import { type Part, sameThroughout, wordsChanged } from "./parts";

/** One of the texts, put together from the parts. */
const textFrom = (parts: readonly Part[], which: "before" | "after") =>
  parts
    .filter((part) => part.in === "both" || part.in === which)
    .map(({ text }) => text)
    .join("");

function partsOf(before: string, after: string): Part[] {
  const found = differencesOf({ before, after, isExact: true });
  if (found.kind === "throughout") throw new Error("They differ throughout.");
  return found.parts;
}

describe("what differs between two texts", () => {
  it("is told word by word", () => {
    const parts = partsOf("You answer for the ferry in short words.", "You answer for the harbour in short words.");
    expect(parts).toEqual([
      { text: "You answer for the ", in: "both" },
      { text: "ferry", in: "before" },
      { text: "harbour", in: "after" },
      { text: " in short words.", in: "both" },
    ]);
    expect(wordsChanged(parts)).toBe(2);
  });

  it("gives both texts again, whatever they are", () => {
    const words = fc.array(fc.constantFrom("a", "boat", " ", "\n", "€4.00", "ü", "🚲", "-"), { maxLength: 60 });
    fc.assert(
      fc.property(words, words, (one, other) => {
        const [before, after] = [one.join(""), other.join("")];
        const parts = partsOf(before, after);
        expect([textFrom(parts, "before"), textFrom(parts, "after")]).toEqual([before, after]);
      }),
    );
  });

  it("is told as all of it where that is so, and a word in a long text is found all the same", () => {
    const long = (word: string) => Array.from({ length: 8_000 }, (_, at) => `${word}${at}`).join(" ");
    expect(differencesOf({ before: long("a"), after: long("b") })).toEqual({ kind: "throughout" });
    expect(differencesOf({ before: "a".repeat(2_000_000), after: "b" })).toEqual({ kind: "throughout" });
    const parts = partsOf(long("a"), long("a").replace("a4000 ", "boat "));
    expect(wordsChanged(parts)).toBe(2);
  });

  it("are none between a text and itself", () => {
    for (const text of ["", "Aye.", "Two  blanks\nand a line"])
      expect(sameThroughout(text)).toEqual(differencesOf({ before: text, after: text }));
  });
});
