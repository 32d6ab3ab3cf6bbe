import { describe, expect, it } from "vitest";
import type { Content } from "@/core/revision/content";
import { laneAbout, laneNames, laneSaid, listed, type Spoken } from "./candidate-words";

const content: Content = {
  prompt: "You are Quay Desk.",
  variables: {},
  provider: "reedbed",
  model: "reed-deep",
  settings: { temperature: 0.7 },
  memory: { kind: "everything" },
};
const lane = (change: Partial<Content> = {}, base: Spoken["base"] = "live"): Spoken => ({
  base,
  content: { ...content, ...change },
  changedFrom: Object.keys(change).length > 0 ? content : null,
});
const nameOf = (slug: string) => ({ reedbed: "Reedbed", saltpan: "Saltpan" })[slug] ?? slug;

describe("a candidate", () => {
  it("is spoken of by what it was chosen as and what is other in it", () => {
    expect(laneSaid(lane())).toBe("the live revision");
    expect(laneSaid(lane({}, 7))).toBe("revision 7");
    expect(laneSaid(lane({ model: "tide-wide", settings: { temperature: 0.2 } }))).toBe("tide-wide at temperature 0.2");
    expect(laneSaid(lane({ prompt: "Other." }, "draft"))).toBe("the draft with another prompt");
    expect(laneSaid(lane({ memory: { kind: "last-turns", turns: 4 } }))).toBe(
      "the live revision carrying last 4 turns",
    );
  });

  it("has a short name that no other one has", () => {
    expect(laneNames([lane(), lane({}, "draft"), lane({ model: "reed-swift" })], nameOf)).toEqual([
      "live",
      "draft",
      "reed-swift",
    ]);
    expect(laneNames([lane(), lane({ settings: { temperature: 0.2 } })], nameOf)).toEqual(["live", "live, 0.2"]);
    expect(laneNames([lane({ model: "x" }), lane({ model: "x", provider: "saltpan" })], nameOf)).toEqual([
      "x",
      "x, Saltpan",
    ]);
    expect(laneNames([lane(), lane()], nameOf)).toEqual(["live (1)", "live (2)"]);
  });

  it("is told in full beside its name", () => {
    expect(laneAbout(lane(), 6, nameOf)).toBe("revision 6 · reed-deep on Reedbed · temperature 0.7");
    expect(laneAbout(lane({ model: "reed-swift" }), 6, nameOf)).toBe(
      "changed from revision 6 · reed-swift on Reedbed · temperature 0.7",
    );
  });
});

it("a list reads as a sentence does", () => {
  expect([listed([]), listed(["a"]), listed(["a", "b"]), listed(["a", "b", "c"])]).toEqual([
    "",
    "a",
    "a and b",
    "a, b and c",
  ]);
});
