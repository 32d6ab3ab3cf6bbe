import { describe, expect, test } from "vitest";
import { askForProposal, holdsHalf, meanReciprocalRank, proposalFrom, rangeOfQuote, shareAmong } from "./retrieval";

describe("how well questions find their passage", () => {
  test("is the share among the first so many, and the mean of one over the place", () => {
    const places = [1, 2, null, 4, 1];
    expect([1, 3, 5].map((first) => shareAmong(places, first))).toEqual([40, 60, 80]);
    expect(meanReciprocalRank(places)).toBeCloseTo((1 + 1 / 2 + 1 / 4 + 1) / 5);
    expect([shareAmong([], 1), meanReciprocalRank([])]).toEqual([0, 0]);
  });

  test("is asked of the passage that has at least half of the words that answer it", () => {
    const answer = { from: 100, to: 120 };
    expect(holdsHalf({ from: 0, to: 110 }, answer)).toBe(true);
    expect(holdsHalf({ from: 0, to: 109 }, answer)).toBe(false);
    expect(holdsHalf({ from: 110, to: 400 }, answer)).toBe(true);
    expect(holdsHalf({ from: 200, to: 400 }, answer)).toBe(false);
  });
});

describe("words of a document", () => {
  const text = "A bicycle (with its bags)\n costs  €2.00 each way.\nTickets are refunded.";

  test.each([
    ["costs €2.00 each", "costs  €2.00 each"],
    ["bags) costs €2.00", "bags)\n costs  €2.00"],
    ["  Tickets\nare ", "Tickets are"],
    ["a bicycle", undefined],
    ["   ", undefined],
  ])("%j are found however the blanks are", (quote, words) => {
    const found = rangeOfQuote(text, quote);
    expect(found && text.slice(found.from, found.to)).toBe(words);
  });
});

describe("a question that a model proposes", () => {
  const passage = "A bicycle costs €2.00 each way and needs a place.";

  test("is asked for with its passage", () => {
    expect(askForProposal(passage)).toContain(`The passage:\n${passage}`);
  });

  test.each([
    ["What do bikes cost?\ncosts €2.00 each way", { question: "What do bikes cost?", quote: "costs €2.00 each way" }],
    ['Question: What?\n\nAnswer: "needs a place"', { question: "What?", quote: "needs a place" }],
    ["What do bikes cost?\nthey cost two euros", undefined],
    ["What do bikes cost?", undefined],
    [`${"a".repeat(601)}\nneeds a place`, undefined],
    ["", undefined],
  ])("is read from %j", (answer, proposal) => {
    expect(proposalFrom(answer, passage)).toEqual(proposal);
  });
});
