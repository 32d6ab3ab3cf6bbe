import { describe, expect, it } from "vitest";
import { addressOf, askedFor, filterIn, isOpen } from "./filter";

const noon = new Date(2026, 6, 14, 12).getTime();

describe("the filter of the history", () => {
  it("stands in the address, and is read from it again", () => {
    const filter = {
      origin: "page",
      model: "Reedbed reed-deep",
      revision: 7,
      since: "week",
      over: 0.01,
      words: "a b",
    } as const;
    expect(filterIn(new URLSearchParams(addressOf(filter)))).toEqual(filter);
    expect([isOpen({}), isOpen({ words: "" }), isOpen(filter)]).toEqual([true, true, false]);
  });

  it("leaves out what is none", () => {
    const address = new URLSearchParams("origin=moon&revision=x&since=someday&ended=cut&colour=red&over=");
    expect(filterIn(address)).toEqual({ ended: "cut" });
  });

  it.each([
    ["today", new Date(2026, 6, 14)],
    ["yesterday", new Date(2026, 6, 13)],
    ["week", new Date(2026, 6, 8)],
    ["2026-07-01", new Date(2026, 6, 1)],
  ])("begins %s at midnight of its day", (since, begins) => {
    expect(askedFor({ since, tag: "a" }, noon)).toEqual({ since: begins.getTime(), tag: "a" });
  });
});
