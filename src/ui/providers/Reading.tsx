import { textOf } from "@/core/conversation/pieces";
import { titleOf } from "@/core/problem/problem";
import type { ReadEvent } from "@/core/reply/events";
import { emptyReply, fold, type Reply } from "@/core/reply/reply";
import { many } from "../shared/format";
import styles from "./Reading.module.css";

/** What was read from an answer, in one line. */
export function Reading({ events }: { events: ReadEvent[] }) {
  const reply = events.reduce<Reply>(
    (before, event) =>
      (event.event === "text" || event.event === "thought" || event.event === "end" || event.event === "problem") &&
      !event.take
        ? fold(before, event)
        : before,
    emptyReply,
  );
  const counts = events.find((event) => event.event === "counts")?.data as
    | { input?: number; output?: number }
    | undefined;
  const others = new Set(events.flatMap((event) => (event.event === "text" && event.take > 0 ? [event.take] : [])))
    .size;
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
    <section className={styles.reading} aria-label="Read as" tabIndex={0}>
      <p role="status">
        <b>Read as</b> {textOf(reply) || "no text"}
        <span className={reply.problem ? styles.wrong : styles.quiet}>
          {reply.thought && " · with thought"}
          {others > 0 && ` · ${many(others, "further take")}`}
          {counts && ` · ${counts.input ?? "?"} in, ${counts.output ?? "?"} out`} ·{" "}
          {reply.problem ? `${titleOf(reply.problem.kind)}. ${reply.problem.detail}` : reply.state}
        </span>
      </p>
    </section>
  );
}
