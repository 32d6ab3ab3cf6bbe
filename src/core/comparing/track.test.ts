import { describe, expect, it } from "vitest";
import { laneTrackOf, readingsOf, type TrackedCall } from "./track";

const call = (more: Partial<TrackedCall> = {}): TrackedCall => ({
  startedAt: 10_000,
  ms: 1_000,
  read: [
    { at: 300, text: 0, thought: 8 },
    { at: 500, text: 4, thought: 0 },
    { at: 510, text: 3, thought: 0 },
    { at: 900, text: 5, thought: 0 },
  ],
  hasFailed: false,
  hasPlaces: true,
  ...more,
});

describe("the track of a lane", () => {
  it("has what was waited for, what came when, and its end", () => {
    expect(laneTrackOf([call()], 9_400, 99_000, true)).toEqual({
      waits: [
        { for: "place", from: 0, to: 600, isInVain: false },
        { for: "text", from: 600, to: 900, isInVain: false },
      ],
      arrivals: [
        { at: 900, text: 0, thought: 8 },
        { at: 1_100, text: 7, thought: 0 },
        { at: 1_500, text: 5, thought: 0 },
      ],
      end: 1_600,
    });
  });

  it("has no wait for a place where a provider takes any number of calls", () => {
    const { waits } = laneTrackOf([call({ hasPlaces: false })], 9_400, 99_000, true);
    expect(waits.map((wait) => wait.for)).toEqual(["text"]);
  });

  it("tells a call that failed from the one that was tried after it", () => {
    const failed = call({ ms: 200, read: [], hasFailed: true });
    const { waits } = laneTrackOf([failed, call({ startedAt: 11_000 })], 10_000, 99_000, true);
    expect(waits).toEqual([
      { for: "text", from: 0, to: 200, isInVain: true },
      { for: "try", from: 200, to: 1_000, isInVain: false },
      { for: "text", from: 1_000, to: 1_300, isInVain: false },
    ]);
  });

  it("grows while nothing has come of it", () => {
    expect(laneTrackOf([], 10_000, 10_700, false)).toEqual({
      waits: [{ for: "place", from: 0, to: 700, isInVain: false }],
      arrivals: [],
      end: null,
    });
    const { waits, end } = laneTrackOf([call({ ms: null, read: [] })], 10_000, 10_700, false);
    expect([waits, end]).toEqual([[{ for: "text", from: 0, to: 700, isInVain: false }], null]);
  });
});

describe("what a lane's reply took", () => {
  it("is that of its calls, whatever was waited for before them", () => {
    expect(readingsOf([call()], 20)).toEqual({ firstTextMs: 500, ms: 1_000, speed: 40 });
    const failed = call({ ms: 200, read: [], hasFailed: true });
    expect(readingsOf([failed, call({ startedAt: 99_000 })], 20)).toEqual({ firstTextMs: 700, ms: 1_200, speed: 40 });
  });

  it("has no speed where all came at once, nor where nobody counted", () => {
    expect(readingsOf([call({ read: [{ at: 900, text: 40, thought: 0 }] })], 20).speed).toBeNull();
    expect(readingsOf([call()], undefined).speed).toBeNull();
    expect(readingsOf([call({ read: [] })], 0)).toEqual({ firstTextMs: null, ms: 1_000, speed: null });
  });
});
