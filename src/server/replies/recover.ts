import { leftPieces } from "@/core/conversation/pieces";
import { problem } from "@/core/problem/problem";
import { emptyReply, fold } from "@/core/reply/reply";
import type { HasMessages } from "../conversations/message-store";
import type { HasDatabase } from "../database/database";
import type { HasDispatches } from "../dispatches/dispatch-store";
import type { HasCalls } from "../entrance/call-store";
import { type HasEvents, numbered } from "../live/event-store";

/** What of the process is used here. */
export type RecoverNeeds = HasDatabase & HasMessages & HasDispatches & HasEvents & HasCalls;

/**
 * Ends the replies that a dead process left under way: they are interrupted, with all the text
 * that was written. Readers that come back get what they had, and then the end.
 */
export function recoverReplies({ database, messages, dispatches, events, calls }: RecoverNeeds): number {
  const left = messages.underWay();
  const stopped = problem("interrupted", "Unruly Finch was stopped while this reply was arriving.");
  database
    .transaction(() => {
      dispatches.endLeft({ event: "problem", data: stopped }, Date.now());
      const latest = left.length > 0 ? events.afterPosition(0, -1) : [];
      for (const { id, facts } of left) {
        const kept = events.ofReply(id, 0);
        const lastKept = kept.at(-1)?.id ?? 0;
        const further = latest.filter((event) => event.reply === id && event.id > lastKept);
        const written = [...kept, ...further].map(numbered);
        const last = { event: "problem", data: stopped } as const;
        const reply = fold(written.reduce(fold, emptyReply), last);
        const end = { id: (written.at(-1)?.id ?? 0) + 1, event: last.event, data: JSON.stringify(last.data) };
        events.append({ reply: id, ...end });
        events.addPage(id, [...further, end]);
        const { state, pieces, thought } = reply;
        calls.end(id, state, null, null, Date.now());
        messages.finishReply({
          id,
          state,
          pieces: leftPieces(pieces),
          reported: null,
          facts: { ...facts, problem: stopped, thought: thought || undefined },
        });
      }
    })
    .immediate();
  return left.length;
}
