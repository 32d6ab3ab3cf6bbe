import type { Work } from "../database/work";
import type { Purpose, Sink } from "../making/types";
import type { SpentOn } from "../spend/spend-store";
import { DispatchRecorder, type Keeping } from "./recorder";

/** What a making is made for, by which its dispatches are kept. */
export interface MadeFor {
  purpose: Purpose;
  /** What it is for, where that is no reply. */
  owner?: string | null;
  /** The replies that come of it. */
  replies?: readonly string[];
  /** The last message that a summary covers. */
  covers?: string;
  /** The conversation whose price it counts to. */
  conversation: string | null;
  spentOn: Omit<SpentOn, "purpose" | "owner">;
}

/**
 * The sink of every making: it keeps the dispatches, and passes on what comes to whoever wants it.
 * @param commit has work done in a transaction, now or a little later
 * @param further what else is done with what comes; what is left out is nobody's
 */
export function keepingSink(
  keeping: Keeping,
  { purpose, owner = null, replies = [], covers, conversation, spentOn }: MadeFor,
  commit: (work: Work) => void,
  further: Partial<Sink> = {},
): { making: string; sink: Sink } {
  const making = keeping.dispatches.make(purpose, owner, replies, Date.now(), covers);
  const recorder = new DispatchRecorder(keeping, making, { ...spentOn, owner, purpose }, conversation, commit);
  const sink: Sink = {
    begin(dispatch) {
      further.begin?.(dispatch);
      recorder.begin(dispatch);
    },
    bytes(dispatch, bytes, at) {
      recorder.bytes(dispatch, bytes, at);
      further.bytes?.(dispatch, bytes, at);
    },
    leaveOutBytes(dispatch) {
      recorder.leaveOutBytes(dispatch);
      further.leaveOutBytes?.(dispatch);
    },
    say: (take, event) => further.say?.(take, event),
    settled: () => further.settled?.() ?? Promise.resolve(),
    next: (attempt) => further.next?.(attempt),
    end(dispatch) {
      recorder.end(dispatch);
      further.end?.(dispatch);
    },
  };
  return { making, sink };
}
