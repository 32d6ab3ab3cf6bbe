import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Cited } from "@/core/sources/found";
import { Citing } from "./citing";

const passage = (mark: string): Cited => ({
  mark,
  passage: mark,
  source: "src",
  version: "v",
  title: "Handbook",
  text: "Dogs travel free.",
  where: { from: 0, to: 17, headings: [] },
});
const passages = [passage("handbook 1"), passage("handbook 2")];

describe("what a take cites", () => {
  it("is told once, when it is cited for the first time; a mark that it did not have is a stray one", () => {
    const citing = new Citing(passages);
    const text = "Free [handbook 2]. So it is [handbook 2], and [handbook 7] too.";
    expect(citing.read(0, text).map(({ mark }) => mark)).toEqual(["handbook 2"]);
    expect(citing.read(1, "[handbook 1]")).toEqual([passages[0]]);
    expect(citing.of(0)).toEqual({ cites: [passages[1]], strayMarks: ["handbook 7"] });
    expect(citing.of(2)).toEqual({ cites: [], strayMarks: [] });
  });

  it("goes on from the round before", () => {
    const citing = new Citing(passages, { cites: [passages[0] as Cited], strayMarks: ["x 1"] });
    expect(citing.read(0, "[handbook 1] [handbook 2]").map(({ mark }) => mark)).toEqual(["handbook 2"]);
    expect(citing.of(0)).toEqual({ cites: passages, strayMarks: ["x 1"] });
  });

  it("is nothing where the app has no documents: brackets are brackets", () => {
    const citing = new Citing(undefined);
    expect(citing.read(0, "[handbook 1]")).toEqual([]);
    expect(citing.of(0)).toEqual({ cites: [], strayMarks: [] });
  });

  it("is the same however its text is cut", () => {
    const part = fc.constantFrom("[handbook 1]", "[handbook 2, 1]", "[handbook 9]", "free ", "[", "]", "\n", "1]");
    fc.assert(
      fc.property(fc.array(part, { maxLength: 10 }), fc.array(fc.nat(120), { maxLength: 8 }), (parts, cuts) => {
        const text = parts.join("");
        const [whole, cut] = [new Citing(passages), new Citing(passages)];
        const at = [...new Set([0, ...cuts.filter((each) => each < text.length), text.length])].sort((a, b) => a - b);
        const told = at.slice(1).flatMap((to, place) => cut.read(0, text.slice(at[place], to)));
        expect(told).toEqual(whole.read(0, text));
        expect(cut.of(0)).toEqual(whole.of(0));
      }),
    );
  });
});
