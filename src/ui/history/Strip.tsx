import type { ReplyState } from "@/core/reply/reply";
import { many } from "../shared/format";
import styles from "./Strip.module.css";
import type { StripTurns } from "./strip-turns";

const marks: Partial<Record<ReplyState, { sign: string; word: string }>> = {
  failed: { sign: "✕", word: "failed" },
  interrupted: { sign: "✕", word: "interrupted" },
  refused: { sign: "✕", word: "refused" },
  cut: { sign: "◣", word: "cut" },
  stopped: { sign: "◣", word: "stopped" },
  waiting: { sign: "…", word: "arriving" },
  arriving: { sign: "…", word: "arriving" },
};

/**
 * A conversation as one strip of its turns: length by tokens, a mark where a reply did not end well, a hook where
 * lines part, and yellow where a searched word is said.
 */
export function Strip({ turns, longest }: { turns: StripTurns; longest: number }) {
  return (
    <span className={styles.strip} role="img" aria-label={spoken(turns)}>
      {turns.map(({ visitor, reply, state, forks, places }, at) => {
        const mark = state === null ? undefined : marks[state];
        return (
          <span
            key={at}
            className={styles.turn}
            data-places={places > 0}
            data-forks={forks > 0}
            style={{ width: `${((visitor + reply) / longest) * 100}%` }}
          >
            <i data-part="visitor" style={{ flexGrow: visitor }} />
            <i data-part="reply" data-state={mark?.word} style={{ flexGrow: reply }} />
            {mark && <b data-state={mark.word}>{mark.sign}</b>}
          </span>
        );
      })}
    </span>
  );
}

function spoken(turns: StripTurns): string {
  const states = turns.map(({ state }) => state && marks[state]?.word).filter(Boolean);
  const forks = turns.filter((turn) => turn.forks > 0).length;
  const places = turns.filter((turn) => turn.places > 0).length;
  const words = [
    states.length > 0 ? `replies ${states.join(", ")}` : "all replies complete",
    forks > 0 && `lines part in ${many(forks, "turn")}`,
    places > 0 && `found in ${many(places, "turn")}`,
  ];
  return words.filter(Boolean).join("; ");
}
