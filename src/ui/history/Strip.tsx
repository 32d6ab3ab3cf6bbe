import type { ListedConversation } from "@/contract/conversations";
import type { ReplyState } from "@/core/reply/reply";
import styles from "./Strip.module.css";

const marks: Partial<Record<ReplyState, { sign: string; word: string }>> = {
  failed: { sign: "✕", word: "failed" },
  interrupted: { sign: "✕", word: "interrupted" },
  refused: { sign: "✕", word: "refused" },
  cut: { sign: "◣", word: "cut" },
  stopped: { sign: "◣", word: "stopped" },
  waiting: { sign: "…", word: "arriving" },
  arriving: { sign: "…", word: "arriving" },
};

/** A conversation as one strip of its turns: length by tokens, a mark where a reply did not end well. */
export function Strip({ turns, longest }: { turns: ListedConversation["turns"]; longest: number }) {
  const spoken = turns.map(({ state }) => state && marks[state]?.word).filter(Boolean);
  return (
    <span
      className={styles.strip}
      role="img"
      aria-label={spoken.length > 0 ? `Replies: ${spoken.join(", ")}` : "All replies complete"}
    >
      {turns.map(({ visitor, reply, state }, at) => {
        const mark = state === null ? undefined : marks[state];
        return (
          <span key={at} className={styles.turn} style={{ width: `${((visitor + reply) / longest) * 100}%` }}>
            <i data-part="visitor" style={{ flexGrow: visitor }} />
            <i data-part="reply" data-state={mark?.word} style={{ flexGrow: reply }} />
            {mark && <b data-state={mark.word}>{mark.sign}</b>}
          </span>
        );
      })}
    </span>
  );
}
