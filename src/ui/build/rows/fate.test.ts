import { describe, expect, it } from "vitest";
import type { LineMessage } from "@/contract/conversations";
import type { Reached } from "@/core/context/judged";
import type { Reason } from "@/core/context/reason";
import { fatesOf } from "./fate";

const visitor = (turn: number) => ({ id: `v${turn}`, turn, role: "visitor" }) as LineMessage;
const reply = (turn: number, state = "complete", problem?: { kind: string }) =>
  ({ id: `r${turn}`, turn, role: "app", state, facts: { problem } }) as unknown as LineMessage;
const reached = (carried: boolean, kind: Reason["kind"] = carried ? "remembered" : "forgotten") =>
  ({ carried, tokens: 7, reason: { kind } }) as Reached;

describe("how a message stands in its line", () => {
  it("has the bracket begin and end where what is carried does", () => {
    const line = [visitor(1), reply(1), visitor(2), reply(2)];
    const fates = fatesOf(
      line,
      [false, false, true, true].map((carried) => reached(carried)),
      undefined,
    );
    expect(fates.map(({ first, last }) => [first, last])).toEqual([
      [false, true],
      [true, false],
      [true, false],
      [false, true],
    ]);
  });

  it("has it go on to a summary that is carried, which stands before its message", () => {
    const line = [visitor(1), reply(1), visitor(2), reply(2)];
    const rows = [false, false, true, true].map((carried) => reached(carried));
    const [, before, at] = fatesOf(line, rows, { at: 2, isCarried: true });
    expect([before?.last, at?.first]).toEqual([false, false]);
    const [, , alone] = fatesOf(line, rows, { at: 2, isCarried: false });
    expect(alone?.first).toBe(true);
  });

  it("knows the newest turn, the end, and what is being answered", () => {
    const line = [visitor(1), reply(1), visitor(2), reply(2, "arriving")];
    const fates = fatesOf(
      line,
      line.map(() => reached(true)),
      undefined,
    );
    expect(fates.map(({ isNewest }) => isNewest)).toEqual([false, false, true, true]);
    expect(fates.map(({ isEnd }) => isEnd)).toEqual([false, false, false, true]);
    expect(fates.map(({ isBeingAnswered }) => isBeingAnswered)).toEqual([false, false, true, false]);
  });

  it("offers to ask again at the message where no reply does", () => {
    const rows = [reached(false, "unanswered"), reached(false)];
    expect(fatesOf([visitor(1)], rows.slice(0, 1), undefined)[0]?.isUnanswered).toBe(true);
    const failed = reply(1, "failed", { kind: "timed-out" });
    expect(fatesOf([visitor(1), failed], rows, undefined)[0]?.isUnanswered).toBe(false);
    const interrupted = reply(1, "interrupted", { kind: "interrupted" });
    expect(fatesOf([visitor(1), interrupted], rows, undefined)[0]?.isUnanswered).toBe(true);
  });
});
