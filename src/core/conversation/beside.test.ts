import { describe, expect, it } from "vitest";
import { pairsOf } from "./beside";
import { piecesOf } from "./pieces";

const said = (id: string, text = id) => ({ id, pieces: piecesOf(text) });

describe("two lines beside each other", () => {
  it("are one as far as they go together, and then say the same or not", () => {
    const left = [said("a"), said("b"), said("c", "Aye."), said("d", "No.")];
    const right = [said("a"), said("b"), said("x", "Aye."), said("y", "Nay."), said("z")];
    expect(pairsOf(left, right).map(({ is }) => is)).toEqual(["one", "one", "same", "different", "different"]);
    expect(pairsOf(left, right).at(-1)).toMatchObject({ left: undefined, right: { id: "z" } });
    expect(pairsOf([], [])).toEqual([]);
  });
});
