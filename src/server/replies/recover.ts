import { problem } from "@/core/problem/problem";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Home } from "../home";
import { numbered } from "./event-store";

/**
 * Ends the replies that a dead process left under way: they are interrupted, with all the text
 * that was written. Readers that come back get what they had, and then the end.
 */
export function recoverReplies({
  database,
  conversations,
  dispatches,
  events,
}: Pick<Home, "database" | "conversations" | "dispatches" | "events">): number {
  const left = conversations.underWay();
  const stopped = problem("interrupted", "Unruly Finch was stopped while this reply was arriving.");
  database.transaction(() => {
    dispatches.endLeft({ event: "problem", data: stopped }, Date.now());
    for (const { id, facts } of left) {
      const written = events.ofReply(id, 0).map(numbered);
      const last = { event: "problem", data: stopped } as const;
      const reply = fold(written.reduce(fold, emptyReply), last);
      events.add(id, (written.at(-1)?.id ?? 0) + 1, last.event, JSON.stringify(last.data));
      const { state, pieces, thought } = reply;
      conversations.finishReply({
        id,
        state,
        pieces,
        reported: null,
        facts: { ...facts, problem: stopped, thought: thought || undefined },
      });
    }
  })();
  return left.length;
}
