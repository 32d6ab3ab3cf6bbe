import { describe, expect, it } from "vitest";
import { itemsOf, keyOf } from "./read-items";

const shown = (turns: number, found?: number[], unfolded: number[] = []) =>
  itemsOf(turns, found, new Set(unfolded)).map((item) =>
    item.kind === "turn" ? String(item.turn) : `${item.from}–${item.to}`,
  );

describe("what is read of a conversation", () => {
  it("is all of it where nothing is searched", () => {
    expect(shown(3)).toEqual(["1", "2", "3"]);
  });

  it("is what says the words, with what is between folded", () => {
    expect(shown(9, [3, 4, 8])).toEqual(["1–2", "3", "4", "5–7", "8", "9–9"]);
    expect(shown(2, [1, 2])).toEqual(["1", "2"]);
    expect(shown(3, [])).toEqual(["1–3"]);
  });

  it("shows a stretch that was unfolded", () => {
    expect(shown(9, [3, 8], [4])).toEqual(["1–2", "3", "4", "5", "6", "7", "8", "9–9"]);
  });

  it("is known by where it begins", () => {
    const keys = itemsOf(9, [3, 8], new Set()).map(keyOf);
    expect(new Set(keys).size).toBe(keys.length);
  });
});
