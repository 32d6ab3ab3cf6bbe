import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bucketsOf, pathOf } from "./buckets";

describe("moments on an axis", () => {
  it("are gathered by when they came, the last at the end", () => {
    expect(bucketsOf([{ at: 0 }, { at: 24, size: 5 }, { at: 26 }, { at: 100 }, { at: 140 }], 100, 4)).toEqual([
      6, 1, 0, 2,
    ]);
  });

  it("lose nothing, however many they are", () => {
    const moment = fc.record({ at: fc.nat(10_000), size: fc.integer({ min: 1, max: 50 }) });
    fc.assert(
      fc.property(
        fc.array(moment),
        fc.integer({ min: 1, max: 10_000 }),
        fc.integer({ min: 1, max: 400 }),
        (all, end, count) => {
          const buckets = bucketsOf(all, end, count);
          expect(buckets).toHaveLength(count);
          expect(buckets.reduce((sum, size) => sum + size, 0)).toBe(all.reduce((sum, { size }) => sum + size, 0));
        },
      ),
    );
  });
});

describe("the bars of an axis", () => {
  it("are as high as what they hold, and seen where they hold anything", () => {
    expect(pathOf([0, 1, 4], 12, 0.5)).toBe("M1 12v-5.25h0.5v5.25zM2 12v-12h0.5v12z");
    expect(pathOf([0, 0], 12)).toBe("");
    expect(pathOf([], 12)).toBe("");
  });
});
