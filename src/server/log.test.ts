import { describe, expect, it } from "vitest";
import { plain } from "./log";

const time = new Date(2026, 10, 23, 9, 40, 5).getTime();
const dispatch = {
  level: 30,
  time,
  msg: "dispatch",
  app: "quay-desk",
  origin: "bench",
  model: "reed-deep",
  messages: 5,
  end: "complete",
  totalMs: 1903,
};

describe("the log at a terminal", () => {
  it("has one line for a dispatch", () => {
    expect(plain({ ...dispatch, input: 412, output: 61, firstTextMs: 410 })).toBe(
      "09:40:05 quay-desk (bench) reed-deep: 5 messages, 412 tokens in, 61 out, first text 0.41 s, 1.90 s in all, complete\n",
    );
    expect(plain({ ...dispatch, end: "unreachable" })).toContain("no tokens, no text, 1.90 s in all, unreachable");
  });

  it("marks errors, and shows what they hold", () => {
    expect(plain({ level: 50, time, msg: "it broke", reply: "r1" })).toBe('09:40:05 error: it broke {"reply":"r1"}\n');
  });
});
