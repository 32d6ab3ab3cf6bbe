import type { Reason } from "@/core/context/reason";

const words: Record<Reason["kind"], string> = {
  prompt: "the system prompt goes first",
  "no-prompt": "the system prompt is empty",
  newest: "the message itself",
  remembered: "carried: it is remembered",
  "not-remembered": "not carried: it is no longer remembered",
  cleared: "not carried: it stands above a clear",
  unanswered: "not carried: the turn has no answer",
};

/** Why a part of a context is carried, or not. */
export function wordsFor(reason: Reason): string {
  return words[reason.kind];
}
