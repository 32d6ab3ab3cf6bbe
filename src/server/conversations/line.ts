import type { Pinned } from "@/core/context/assemble";
import type { Clear } from "@/core/context/clear";
import { type Memory, policyOf } from "@/core/context/policies/policies";
import type { HasBranches } from "./branch-store";
import type { HasMessages } from "./message-store";
import type { HasPins } from "./pin-store";
import type { HasSummaries, StoredSummary } from "./summary-store";

/** What of the process is used here. */
export type LineNeeds = HasMessages & HasBranches & HasPins & HasSummaries;

/** What hangs on a line. */
export interface Hanging {
  /** Those that still matter, the last first. */
  clears: Clear[];
  pinned: Pinned[];
  /** The newest first; none where a memory carries none. */
  summaries: StoredSummary[];
}

/**
 * What hangs on a line: its clears, its pinned turns, and its summaries.
 * @param end the end of the line
 * @param memory what the app remembers, which may carry no summary
 */
export function hangingOn(
  { branches, pins, messages, summaries }: LineNeeds,
  conversation: string,
  end: string,
  memory: Memory,
): Hanging {
  const pinned = pins.ofConversation(conversation).flatMap(({ message, depth }): Pinned[] => {
    if (branches.ancestorAt(conversation, end, depth) !== message) return [];
    const below = branches.ancestorAt(conversation, end, depth + 1);
    const [visitor, reply] = [messages.message(message), below && messages.message(below)];
    return visitor && reply ? [{ visitor, reply }] : [];
  });
  const carriesSome = policyOf(memory).inFull !== undefined;
  return {
    clears: branches.clearsAbove(conversation, end),
    pinned,
    summaries: carriesSome ? summaries.ofLine(conversation, end) : [],
  };
}
