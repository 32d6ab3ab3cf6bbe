import { describe, expect, it } from "vitest";
import { factsIn } from "./facts/facts";
import { statedIn } from "./stated";

const stated = (question: string, ...texts: (string | undefined)[]) => {
  const lanes = texts.map((text) => (text === undefined ? undefined : factsIn(text)));
  const { shared, differing } = statedIn(lanes, factsIn(question));
  const told = (row: (typeof differing)[0]) => [row.key, row.places.map((places) => places.length).join("")];
  return { shared: shared.map(({ key }) => key), differing: differing.map(told) };
};

describe("facts that lanes state", () => {
  it("are parted into those of all and those of some, by the lanes that state them", () => {
    expect(
      stated("", "The 8:10 and the 9:40.", "The 8:10, the 9:40 and the 17:30.", "09:40 or twenty to ten."),
    ).toEqual({
      shared: ["09:40"],
      differing: [
        ["08:10", "110"],
        ["17:30", "010"],
      ],
    });
  });

  it("leave out a lane that said nothing", () => {
    expect(stated("", "At 8:10.", undefined, "At 8:10.")).toEqual({ shared: ["08:10"], differing: [] });
  });

  it("are told apart by what they are about, where each is said of something", () => {
    const [one, other] = ["The 8:10 has four places.", "The 9:40 has four places."];
    expect(stated("", one, other).differing).toEqual([
      ["08:10", "10"],
      ["4 place · 8:10", "10"],
      ["09:40", "01"],
      ["4 place · 9:40", "01"],
    ]);
    expect(stated("", one, "There are four places.").shared).toEqual(["4 place"]);
  });

  it("tell what is denied from what is not", () => {
    expect(stated("", "The 9:40 does not run.", "The 9:40 runs.").differing).toEqual([
      ["not 09:40", "10"],
      ["09:40", "01"],
    ]);
  });

  it("put what the question says already last", () => {
    expect(stated("What about the 9:40?", "The 9:40 costs €4.", "It costs €5.").differing).toEqual([
      ["EUR 4", "10"],
      ["EUR 5", "01"],
      ["09:40", "10"],
    ]);
  });
});
