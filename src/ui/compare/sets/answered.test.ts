import { describe, expect, it } from "vitest";
import type { MessageSet } from "@/contract/sets";
import type { SetAnswer } from "@/core/comparing/sets/answer";
import { cellsOf, marksOf, movedBy, sameCells, spreadsOf, withAnswers } from "./answered";

const answer = (seq: number, row: number, lane: number, text = "Aye."): SetAnswer => ({
  seq,
  row,
  lane,
  mark: null,
  replies: [{ text, making: null, figures: { outcome: "complete", ms: 10, firstTextMs: seq, output: 3 } }],
});

const set = (answers: SetAnswer[], change: Partial<MessageSet> = {}) =>
  ({
    id: "set_1",
    rows: [["a"], ["b"]],
    lanes: [{}, {}],
    answers,
    marks: [],
    hidesNames: false,
    ...change,
  }) as MessageSet;

describe("a set that is read as it is answered", () => {
  it("has what came before with what came since, and an answer that was asked again in the place of the first", () => {
    const before = set([answer(1, 0, 0), answer(2, 0, 1, "")]);
    const after = withAnswers(before, set([answer(3, 0, 1, "Now.")], { marks: [{ row: 0, lane: 0, mark: "good" }] }));
    expect(after.answers.map(({ seq, mark }) => [seq, mark])).toEqual([
      [1, "good"],
      [3, null],
    ]);
    expect([marksOf(after, 0, "good"), marksOf(after, 1, "good")]).toEqual([1, 0]);
  });

  it("draws only those rows again in which something changed", () => {
    const before = set([answer(1, 0, 0)]);
    const after = withAnswers(before, set([answer(2, 1, 0)]));
    const [first, second] = [cellsOf(before), cellsOf(after)];
    expect([0, 1].map((row) => sameCells(first[row] ?? [], second[row] ?? []))).toEqual([true, false]);
  });
});

describe("the table of a set", () => {
  it("has a column a lane, and while names are hidden each row in an order of its own", () => {
    const rows = Array.from({ length: 30 }, () => ["a"]);
    const lanesIn = (hidesNames: boolean) =>
      new Set(cellsOf(set([], { rows, hidesNames })).map((cells) => cells.map(({ lane }) => lane).join()));
    expect([...lanesIn(false)]).toEqual(["0,1"]);
    expect([...lanesIn(true)].toSorted()).toEqual(["0,1", "1,0"]);
  });

  it("is gone through by arrow keys up to its edges", () => {
    const size = { rows: 2, columns: 2 };
    expect(movedBy("ArrowDown", { row: 0, column: 1 }, size)).toEqual({ row: 1, column: 1 });
    expect(movedBy("ArrowRight", { row: 0, column: 1 }, size)).toBeUndefined();
    expect(movedBy("ArrowUp", { row: 0, column: 1 }, size)).toBeUndefined();
    expect(movedBy("Enter", { row: 0, column: 1 }, size)).toBeUndefined();
  });

  it("tells how a measure spreads by lane, and nothing of a lane without replies", () => {
    expect(spreadsOf(set([answer(4, 0, 0), answer(8, 1, 0)]), "firstText")).toEqual([
      expect.objectContaining({ count: 2, median: 6 }),
      undefined,
    ]);
  });
});
