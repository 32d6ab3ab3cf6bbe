import type { Active } from "./faults/fault";
import type { Pace } from "./pace";

/** One call as a stand-in sees it. */
export interface Call {
  /** What goes wrong on purpose. */
  fault: Active | undefined;
  /** `performance.now()` when it came. */
  arrivedAt: number;
  /** Set when all models are to keep one pace; else each keeps its own. */
  pace: Pace | undefined;
  /** Aborted when what is left is to be said at once. */
  hurried: AbortSignal;
  /** Aborted when the caller is gone. */
  signal: AbortSignal;
  /** Notes what came in, and the whole text that is going to be said. */
  begin(noted: { model: string; messages: { role: string; content: string }[]; text: string }): void;
  /** Notes text that was written out. */
  said(text: string): void;
}
