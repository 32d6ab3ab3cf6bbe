import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { ticksOf } from "./ticks";

describe("ticks of an axis", () => {
  it("stand at round moments", () => {
    expect(ticksOf(5_400)).toEqual([1_000, 2_000, 3_000, 4_000, 5_000]);
    expect(ticksOf(640)).toEqual([100, 200, 300, 400, 500, 600]);
  });

  it("are few, and within it", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 10_000_000 }), (end) => {
        const ticks = ticksOf(end);
        expect(ticks.length).toBeLessThanOrEqual(8);
        expect(ticks.every((at) => at > 0 && at < end)).toBe(true);
      }),
    );
  });
});
