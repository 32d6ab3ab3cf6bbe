import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Piece } from "../conversation/pieces";
import { sharesOf } from "./shares";

const text = (words: string): Piece[] => [{ kind: "text", text: words }];

describe("the tokens of a message by its parts", () => {
  it("come to the whole together, and none is less than nothing", () => {
    fc.assert(
      fc.property(fc.nat(100_000), fc.array(fc.lorem({ mode: "words" }), { minLength: 1 }), (tokens, words) => {
        const shares = sharesOf(tokens, words.map(text));
        expect(shares.reduce((sum, share) => sum + share, 0)).toBe(tokens);
        expect(Math.min(...shares)).toBeGreaterThanOrEqual(0);
      }),
    );
  });

  it("go by how much each says, a call of a tool with its answer too", () => {
    const call: Piece = { kind: "tool", round: 1, call: "c1", name: "places_left", arguments: {}, outcome: "answered" };
    const [tool = 0, said = 0, nothing] = sharesOf(100, [
      [{ ...call, result: "seven ".repeat(40) }],
      text("Seven."),
      [],
    ]);
    expect(tool).toBeGreaterThan(said * 10);
    expect(said).toBeGreaterThan(0);
    expect(nothing).toBe(0);
  });

  it("of nothing are nothing", () => {
    expect(sharesOf(0, [])).toEqual([]);
    expect(sharesOf(12, [[]])).toEqual([0]);
  });
});
