import type { Memory as MemoryPolicy } from "@/core/context/policies/policies";
import { count, duration, many } from "../../shared/format";
import type { Station, StationScene } from "./station";
import styles from "./stations.module.css";

/** What each policy carries, in words. */
const words: Record<MemoryPolicy["kind"], string> = { everything: "everything" };

/** What is carried of the turns before. */
export const memory: Station = {
  name: "Memory",
  reading: ({ draft, ahead }) => `${words[draft.content.memory.kind]} · ${many(ahead.earlier.tokens, "token")}`,
  mark: ({ facts: { steps } }) => ({ state: "done", time: steps && duration(steps.memory) }),
  Sentence: MemorySentence,
};

function MemorySentence({ draft, ahead: { earlier, rows, room } }: StationScene) {
  const out = rows.filter(({ carried, row }) => !carried && row.role === "visitor").length;
  return (
    <>
      <div className={styles.sentence}>
        Carries <b>{words[draft.content.memory.kind]}</b>: {many(earlier.turns, "turn")}, about{" "}
        <b>{many(earlier.tokens, "token")}</b>, in a window of <b>{count(room.window)}</b>.
      </div>
      <p className={styles.under}>
        {out > 0 ? `Left out now: ${many(out, "turn")} without an answer.` : "Nothing is left out now."} Each turn sends
        more than the one before it.
      </p>
    </>
  );
}
