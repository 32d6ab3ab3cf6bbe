import type { ToolOutcome, ToolPiece } from "@/core/conversation/pieces";
import type { Answerer } from "@/core/tools/tool";

const outcomes: Record<ToolOutcome, string> = {
  waiting: "waits for its answer",
  answered: "answered",
  failed: "failed",
  "timed-out": "did not answer in time",
  refused: "was not called",
  declined: "was declined",
  stopped: "was stopped",
  unknown: "nobody knows whether it happened",
};

const waits = {
  leave: "waits until it is allowed",
  hand: "waits for an answer by hand",
  caller: "waits for its caller",
};

/** What came of a call of a tool, or whom it waits for. */
export function wordsOfOutcome({ outcome, waitsFor }: ToolPiece): string {
  return outcome === "waiting" && waitsFor ? waits[waitsFor] : outcomes[outcome];
}

const by: Record<Answerer, string> = {
  text: "always the same",
  table: "its table",
  address: "its address",
  command: "its command",
  hand: "by hand",
  caller: "its caller",
};

/** Who answers a tool; nobody, where there is none of that name. */
export function wordsOfAnswerer({ by: who }: ToolPiece): string {
  return who === undefined ? "no tool of the app" : by[who];
}
