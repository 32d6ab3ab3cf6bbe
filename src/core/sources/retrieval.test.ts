import { describe, expect, it } from "vitest";
import { meanReciprocalRank, shareAmong } from "./retrieval";

describe("how well questions find their passages", () => {
  const places = [1, 2, null, 4];

  it("is the share that is among the first so many", () => {
    expect([1, 3, 5].map((first) => shareAmong(places, first))).toEqual([25, 50, 75]);
    expect(shareAmong([], 1)).toBe(0);
  });

  it("is the mean of one over the place", () => {
    expect(meanReciprocalRank(places)).toBeCloseTo((1 + 0.5 + 0.25) / 4);
    expect(meanReciprocalRank([])).toBe(0);
  });
});
