import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { factsOf, summaryOf } from "./summary";

const record = `Ivo: Hello there. We should meet on Tuesday at 10:00.
Maren: Fine, really. I will bring 12 candles.
Ivo: No, sorry, on Wednesday at 11:00.
Maren: What a day it was.
Ivo: We decided that the walk costs €3.`;

describe("a summary", () => {
  it("keeps names, times, numbers and decisions, and leaves out what was put right and what says nothing", () => {
    const text = summaryOf(record, 40);
    for (const fact of ["Maren", "Wednesday", "11:00", "12 candles", "€3"]) expect(text).toContain(fact);
    expect(text).not.toMatch(/Tuesday|10:00|What a day/);
  });

  it("gives up words before facts where there is little room", () => {
    const text = summaryOf(record, 16);
    expect(text.split(/\s+/).length).toBeLessThanOrEqual(16);
    for (const fact of ["Wednesday", "11:00", "12 candles", "€3"]) expect(text).toContain(fact);
  });

  it("is never longer than asked, and says nothing that was not there", () => {
    const words = fc.constantFrom(
      "Ivo",
      "meets",
      "Maren",
      "at",
      "9:40",
      "on",
      "Friday",
      "with",
      "two",
      "dogs",
      "for",
      "€5",
      "no",
      "sorry",
      ".",
      "?",
      "\n",
      "Ada:",
    );
    fc.assert(
      fc.property(fc.array(words, { maxLength: 80 }), fc.integer({ min: 1, max: 40 }), (said, most) => {
        const text = said.join(" ");
        const sum = summaryOf(text, most);
        expect(sum.split(/\s+/).filter(Boolean).length).toBeLessThanOrEqual(most);
        const there = text.toLowerCase();
        for (const fact of factsOf(sum))
          for (const word of fact.split(" ")) expect(there).toContain(word.replace(/[.:]$/, ""));
      }),
    );
  });
});
