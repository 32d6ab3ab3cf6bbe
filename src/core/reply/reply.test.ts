import { describe, expect, it } from "vitest";
import { piecesOf } from "../conversation/pieces";
import { problem, problemKinds, statusOf, titleOf } from "../problem/problem";
import type { ReplyEvent } from "./events";
import { canGoOn, emptyReply, fold, isUnderWay } from "./reply";

const head: ReplyEvent = {
  event: "reply",
  data: { reply: "r1", conversation: "c1", message: "m1", revision: 1, provider: "p", model: "m" },
};
const text = (text: string): ReplyEvent => ({ event: "text", data: { text } });

describe("folding a reply from its events", () => {
  it("appends text and ends complete", () => {
    const events: ReplyEvent[] = [
      head,
      text("The 9:40 "),
      text("runs."),
      { event: "end", data: { reason: "complete" } },
    ];
    expect(events.reduce(fold, emptyReply)).toEqual({
      state: "complete",
      pieces: piecesOf("The 9:40 runs."),
      thought: "",
    });
  });

  it("is waiting until the first text, then arriving", () => {
    expect(fold(emptyReply, head).state).toBe("waiting");
    expect(fold(emptyReply, text("a")).state).toBe("arriving");
    expect(isUnderWay("waiting") && isUnderWay("arriving")).toBe(true);
  });

  it.each([
    ["length", "cut"],
    ["stop-word", "complete"],
    ["stopped", "stopped"],
    ["refused", "refused"],
  ] as const)("an end for the reason %s leaves the reply %s", (reason, state) => {
    expect(fold(emptyReply, { event: "end", data: { reason } }).state).toBe(state);
  });

  it("keeps the text that came before a problem", () => {
    const broken = fold(fold(emptyReply, text("half a ")), { event: "problem", data: problem("broken-off", "gone") });
    expect(broken).toMatchObject({ state: "failed", pieces: piecesOf("half a "), problem: { kind: "broken-off" } });
  });

  it("calls a reply left by a dead server interrupted, and lets it be gone on from", () => {
    const left = fold(emptyReply, { event: "problem", data: problem("interrupted", "stopped") });
    expect(left.state).toBe("interrupted");
    expect(canGoOn(left.state)).toBe(true);
    expect(canGoOn("complete")).toBe(false);
  });

  it("does not change the reply it is given", () => {
    fold(emptyReply, text("x"));
    expect(emptyReply.pieces).toEqual([]);
  });
});

describe("the catalogue of problems", () => {
  it("has a status, a title and advice for every kind", () => {
    for (const kind of problemKinds) {
      expect(statusOf(kind)).toBeGreaterThanOrEqual(400);
      expect(titleOf(kind)).toMatch(/^[A-Z].*[^.]$/);
      expect(problem(kind, "x").advice).toMatch(/\.$/);
    }
  });

  it("answers the provider's failures with a gateway's status, never as the caller's fault", () => {
    for (const kind of ["unauthorised", "not-allowed", "unknown-model", "misconfigured"] as const)
      expect(statusOf(kind)).toBe(502);
  });
});
