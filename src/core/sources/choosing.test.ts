import { describe, expect, it } from "vitest";
import { chosenOf, type Found, faultOf } from "./choosing";

const found = (id: string, likeness: number, tokens: number, text = `text of ${id}`): Found => ({
  id,
  text,
  likeness,
  tokens,
});
const fates = (all: Found[], best = 5, within = 100, bar = 0) =>
  chosenOf(all, { best, within, bar }).map(({ found: { id }, fate }) => [
    id,
    fate.carried ? "carried" : fate.reason.kind,
  ]);

describe("of the passages that were found", () => {
  it("the best are carried, as many as may be", () => {
    expect(fates([found("a", 1, 10), found("b", 0.8, 10), found("c", 0.5, 10)], 2)).toEqual([
      ["a", "carried"],
      ["b", "carried"],
      ["c", "beyond-best"],
    ]);
  });

  it("one that is too long gives way to a shorter one behind it", () => {
    expect(fates([found("a", 1, 60), found("b", 0.8, 60), found("c", 0.5, 30)])).toEqual([
      ["a", "carried"],
      ["b", "over-room"],
      ["c", "carried"],
    ]);
  });

  it("what says the same as one that is carried is left out, and so is what has too little to do with the question", () => {
    const same = [
      found("a", 1, 10, "Dogs travel free, on the lead."),
      found("b", 0.9, 10, "dogs travel free"),
      found("c", 0.1, 10),
    ];
    expect(fates(same, 5, 100, 0.2)).toEqual([
      ["a", "carried"],
      ["b", "said-already"],
      ["c", "below-bar"],
    ]);
  });
});

describe("a reply that does not answer from a passage", () => {
  const chosen = chosenOf([found("a", 1, 60), found("b", 0.8, 60), found("c", 0.5, 30)], {
    best: 5,
    within: 100,
    bar: 0,
  });
  const cited = new Set(["a"]);

  it("was wrong in one of three ways", () => {
    expect(faultOf("z", chosen, cited, 31)).toEqual({ kind: "never-found", rank: 31 });
    expect(faultOf("b", chosen, cited, 2)).toMatchObject({
      kind: "left-out",
      fate: { rank: 2, reason: { kind: "over-room", by: 20 } },
    });
    expect(faultOf("c", chosen, cited, 3)).toEqual({ kind: "not-used", rank: 3 });
    expect(faultOf("a", chosen, cited, 1)).toEqual({ kind: "used", rank: 1 });
  });
});
