import { expect, it } from "vitest";
import type { Reached } from "@/core/context/judged";
import type { Reason } from "@/core/context/reason";
import { stretchesOf } from "./folding";

/** The rows of so many turns, all left out for one reason. */
function rowsOf(turns: number, reason: Reason): Reached[] {
  return Array.from({ length: turns * 2 }, (_, at) => ({
    row: { id: `msg_${at}`, turn: Math.floor(at / 2) + 1 } as Reached["row"],
    tokens: 10,
    carried: false,
    reason,
  }));
}

it("turns that are left out together are folded, and the newest never is", () => {
  const rows = rowsOf(5, { kind: "forgotten" });
  expect(stretchesOf(rows, new Set())).toEqual([
    { from: 0, to: 8, isFolded: true },
    { from: 8, to: 9, isFolded: false },
    { from: 9, to: 10, isFolded: false },
  ]);
});

it("turns of which one is open, or that stand for reasons of their own, are not folded", () => {
  expect(stretchesOf(rowsOf(5, { kind: "forgotten" }), new Set(["msg_2"]))[0]?.isFolded).toBe(false);
  expect(stretchesOf(rowsOf(5, { kind: "cleared" }), new Set()).every(({ isFolded }) => !isFolded)).toBe(true);
});
