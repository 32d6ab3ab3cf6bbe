import { type ProblemKind, problemKinds, wordFor } from "@/core/problem/problem";
import { type EndReason, endReasons } from "@/core/reply/events";
import { type ReplyState, stateOfEnd } from "@/core/reply/reply";

const words: Record<ReplyState, string> = {
  waiting: "waited for",
  arriving: "arriving",
  complete: "complete",
  cut: "cut at the output limit",
  stopped: "stopped",
  refused: "refused by the model",
  failed: "failed",
  interrupted: "interrupted: the server stopped",
};

/** How a reply stands, in the words of its row. */
export function wordsOfState(state: ReplyState): string {
  return words[state];
}

/** How a dispatch ended, in the same words: by the reason that it gave, or by the kind of its problem. */
export function endingOf(end: string): string {
  if ((endReasons as readonly string[]).includes(end)) return words[stateOfEnd(end as EndReason)];
  return (problemKinds as readonly string[]).includes(end) ? `failed: ${wordFor(end as ProblemKind)}` : end;
}
