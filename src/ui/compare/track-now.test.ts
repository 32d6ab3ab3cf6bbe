import { describe, expect, it } from "vitest";
import { axisEnd, grown } from "./track-now";

const waiting = { waits: [{ for: "text" as const, from: 20, to: 100, isInVain: false }], arrivals: [], end: null };

describe("a track under way", () => {
  it("waits up to now, and up to the first text once that has come", () => {
    expect(grown(waiting, [], 700).waits).toMatchObject([{ from: 20, to: 700 }]);
    const arrival = { at: 480, text: 4, thought: 0 };
    expect(grown(waiting, [arrival], 700)).toMatchObject({ waits: [{ from: 20, to: 480 }], arrivals: [arrival] });
  });

  it("takes of what arrived here only what came after it was read", () => {
    const read = { ...waiting, arrivals: [{ at: 480, text: 4, thought: 0 }] };
    const live = [470, 480, 520].map((at) => ({ at, text: 3, thought: 0 }));
    expect(grown(read, live, 700).arrivals.map(({ at }) => at)).toEqual([480, 520]);
    expect(grown(read, live, 700).waits).toEqual(read.waits);
  });
});

describe("a time axis", () => {
  it("has room behind its longest track, and grows in steps", () => {
    expect(axisEnd([])).toBe(1_500);
    expect(axisEnd([1_700])).toBe(2_000);
    expect(axisEnd([1_740])).toBe(2_000);
    expect(axisEnd([9_000])).toBe(12_000);
  });
});
