import { describe, expect, it } from "vitest";
import { type Collection, fitsOf } from "./ranking";

const collection = (having: Record<string, number>, passages = 100): Collection => ({
  passages,
  words: passages * 10,
  having: (term) => having[term] ?? 0,
});
const worded = (words: string) => ({ words, length: words.split(" ").length });

describe("a passage fits a question the better", () => {
  it("the fewer passages have the word that it shares with it", () => {
    const passages = [worded("ferry leaves at noon today"), worded("lantern leaves at noon today")];
    const [ferry = 0, lantern = 0] = fitsOf(passages, ["ferry", "lantern"], collection({ ferry: 80, lantern: 1 }));
    expect(lantern).toBeGreaterThan(ferry);
    // and a word that all of them have still tells those that have it from those that do not
    expect(fitsOf([worded("ferry"), worded("boat")], ["ferry"], collection({ ferry: 100 }))).toEqual([
      expect.closeTo(0.0075, 3),
      0,
    ]);
  });

  it("the more often it says the word, the shorter it is, and the more of the words it has", () => {
    const fits = fitsOf(
      [
        worded("dog travel free on the car deck"),
        worded("dog dog dog free on the deck"),
        worded("dog travel free on the car deck and so do a cat a bird and a small horse"),
        worded("dog ticket free on the car deck"),
      ],
      ["dog", "ticket"],
      collection({ dog: 10, ticket: 10 }),
    );
    const [once = 0, thrice = 0, long = 0, both = 0] = fits;
    expect(thrice).toBeGreaterThan(once);
    expect(once).toBeGreaterThan(long);
    expect(both).toBeGreaterThan(thrice);
  });

  it("as the formula says: ln(1 + 99.5/1.5) for one of a hundred, of usual length", () => {
    const [fit] = fitsOf([worded("a b c d e f g h i j")], ["c"], collection({ c: 1 }));
    expect(fit).toBeCloseTo(Math.log(1 + 99.5 / 1.5), 10);
  });

  it("by whole words alone, also where one follows itself", () => {
    const [within, twice] = fitsOf([worded("seaside"), worded("sea sea")], ["sea"], collection({ sea: 1 }));
    expect(within).toBe(0);
    expect(twice).toBeGreaterThan(fitsOf([worded("sea bay")], ["sea"], collection({ sea: 1 }))[0] ?? 0);
  });
});
