import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { chanceOfWorse, interval, moreTrials, passes, standingTo } from "./chance";

const tally = fc
  .integer({ min: 1, max: 40 })
  .chain((of) => fc.integer({ min: 0, max: of }).map((held) => ({ held, of })));

/** Numbers from 0 to 1 that are the same each time (mulberry32). */
function numbers(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let value = Math.imul(state ^ (state >>> 15), 1 | state);
    value = (value + Math.imul(value ^ (value >>> 7), 61 | value)) ^ value;
    return ((value ^ (value >>> 14)) >>> 0) / 4294967296;
  };
}

describe("what trials tell", () => {
  it("is worse where so great a difference is not by chance: four of five, not three", () => {
    const live = { held: 5, of: 5 };
    expect(standingTo(live, { held: 1, of: 5 }).kind).toBe("worse");
    expect(standingTo(live, { held: 2, of: 5 }).kind).toBe("perhaps-worse");
    expect(standingTo(live, { held: 4, of: 5 }).kind).toBe("perhaps-worse");
    expect(standingTo(live, live).kind).toBe("same");
    expect(standingTo({ held: 0, of: 5 }, live).kind).toBe("better");
    expect(standingTo({ held: 1, of: 1 }, { held: 0, of: 1 }).kind).toBe("perhaps-worse");
    expect(standingTo(live, { held: 0, of: 0 }).kind).toBe("unknown");
  });

  it("follows Fisher's exact test: the tea of 1935, and a table of 10 and 10", () => {
    expect(chanceOfWorse({ held: 4, of: 4 }, { held: 0, of: 4 })).toBeCloseTo(1 / 70, 10);
    expect(chanceOfWorse({ held: 3, of: 4 }, { held: 1, of: 4 })).toBeCloseTo(17 / 70, 10);
    expect(chanceOfWorse({ held: 10, of: 10 }, { held: 6, of: 10 })).toBeCloseTo(0.0433, 4);
  });

  it("is a chance, and the greater the smaller the difference", () => {
    fc.assert(
      fc.property(tally, tally, (base, other) => {
        const chance = chanceOfWorse(base, other);
        expect(chance).toBeGreaterThanOrEqual(0);
        expect(chance).toBeLessThanOrEqual(1);
        if (other.held < other.of)
          expect(chanceOfWorse(base, { ...other, held: other.held + 1 })).toBeGreaterThanOrEqual(chance - 1e-12);
      }),
    );
  });

  it("has Wilson's interval around the share that held", () => {
    const { low, high } = interval({ held: 4, of: 5 });
    expect(low).toBeCloseTo(0.3755, 3);
    expect(high).toBeCloseTo(0.9638, 3);
    fc.assert(
      fc.property(tally, ({ held, of }) => {
        const found = interval({ held, of });
        expect(found.low).toBeLessThanOrEqual(held / of + 1e-12);
        expect(found.high).toBeGreaterThanOrEqual(held / of - 1e-12);
      }),
    );
  });

  it("asks for as many further trials as tell a model that is right in 70%, in at least 18 of 20 runs", () => {
    const next = numbers(7);
    let told = 0;
    let runs = 0;
    while (runs < 20) {
      const broke = Array.from({ length: 5 }, () => next() >= 0.7).filter(Boolean).length;
      // where none broke there is nothing to ask for, and where four did it is told already
      if (broke === 0 || broke > 3) continue;
      runs += 1;
      const live = { held: 5, of: 5 };
      const more = moreTrials(live, { held: 5 - broke, of: 5 });
      if (more === null) continue;
      const further = Array.from({ length: more }, () => next() >= 0.7).filter(Boolean).length;
      const whole = { held: 5 + more - broke - further, of: 5 + more };
      if (standingTo({ held: 5 + more, of: 5 + more }, whole).kind === "worse") told += 1;
    }
    expect(told).toBeGreaterThanOrEqual(18);
  });

  it("passes by the rule of a check, whatever number of trials was made", () => {
    expect(passes({ held: 4, of: 5 }, { held: 4, of: 5 })).toBe(true);
    expect(passes({ held: 3, of: 5 }, { held: 4, of: 5 })).toBe(false);
    expect(passes({ held: 8, of: 10 }, { held: 4, of: 5 })).toBe(true);
    expect(passes({ held: 1, of: 1 }, { held: 4, of: 5 })).toBe(true);
    expect(passes({ held: 4, of: 5 }, null)).toBe(false);
    expect(passes({ held: 0, of: 0 }, null)).toBeUndefined();
  });
});
