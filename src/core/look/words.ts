import type { ProblemKind } from "../problem/problem";
import type { Look } from "./look";

/** What visitors are told of failures where the developer has no words for one. */
const usual: Partial<Record<ProblemKind | "offline", string>> = {
  "over-limit": "That was a lot at once. Please wait a moment.",
  "too-long": "That is too long for one message. Please shorten it.",
  "rate-limited": "There is much to do just now. Please try again in a moment.",
  overloaded: "There is much to do just now. Please try again in a moment.",
  "timed-out": "This took too long. Please try again.",
  busy: "An answer is still on its way.",
  "not-found": "That conversation is not there any more. Try again to begin a new one.",
  "unknown-caller": "This page was open for a long time. Please load it again.",
  forbidden: "This page takes no messages just now.",
  closing: "This page is being restarted. Please try again in a minute.",
  offline: "You seem to be offline. What you wrote is kept.",
  unreachable: "The answer could not be fetched. Please try again.",
};

/** What a visitor is told of a failure. */
export function wordsForFailure({ failures }: Pick<Look, "failures">, kind: string): string {
  return failures[kind as ProblemKind] || usual[kind as ProblemKind] || "Something went wrong. Please try again.";
}

/** The name that the page has. */
export function titleOfPage({ title }: Pick<Look, "title">, app: string): string {
  return title.trim() || app;
}
