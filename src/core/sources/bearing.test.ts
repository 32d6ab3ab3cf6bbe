import { describe, expect, it } from "vitest";
import { bearingOn, statementBefore } from "./bearing";

const shown = (passage: string, statement: string) => {
  const { from, to } = bearingOn(passage, statement);
  return passage.slice(from, to);
};

describe("the sentence that a citation stands on", () => {
  const passage = "Dogs travel free on the car deck. In heavy weather, the mate may move a dog below. Cats pay €1.50.";

  it("is the one that shares most words with what is stated", () => {
    expect(shown(passage, "The mate may move your dog below.")).toBe(
      "In heavy weather, the mate may move a dog below.",
    );
    expect(shown(passage, "A cat pays €1.50")).toBe("Cats pay €1.50.");
    expect(shown("Time: 9:40; To: Tansy Holm\nTime: 17:30; To: Brindle", "It goes to Brindle")).toBe(
      "Time: 17:30; To: Brindle",
    );
  });

  it("is all of it where none does", () => {
    expect(shown(passage, "Something else entirely")).toBe(passage);
    expect(shown("", "x")).toBe("");
  });
});

describe("what a mark stands behind", () => {
  it("is the last sentence before it, without the marks in it", () => {
    const text = "Dogs travel free [rules 1]. On the 9:40 a muzzle is asked for [rules 2] [rules 3].";
    expect(statementBefore(text, text.indexOf("[rules 1]"))).toBe("Dogs travel free");
    expect(statementBefore(text, text.indexOf("[rules 3]"))).toContain("On the 9:40 a muzzle is asked for");
    expect(statementBefore("[rules 1] at once", 0)).toBe("");
  });
});
