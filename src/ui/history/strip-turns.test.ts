import { describe, expect, it } from "vitest";
import { packed, tokensOn, turnsIn } from "./strip-turns";

describe("a packed strip", () => {
  it("holds all of its turns", () => {
    const turns = [
      { visitor: 12, reply: 0, state: null, forks: 0, places: 1 },
      { visitor: 5, reply: 9, state: "complete" as const, forks: 0, places: 0 },
      { visitor: 3, reply: 4_000_000, state: "cut" as const, forks: 2, places: 0 },
    ];
    const rest = { id: "c", origin: "bench" as const, client: null, visitor: null, opening: "a", title: null };
    const more = { tags: [], rated: [], at: 1, updatedAt: 2, turnCount: 2, tokens: 5, price: null, places: 1 };
    const conversation = packed({ ...rest, ...more, turns });
    expect(turnsIn(conversation.strip)).toEqual(turns);
    expect(tokensOn(conversation.strip)).toBe(4_000_029);
    expect(conversation).not.toHaveProperty("turns");
  });
});
