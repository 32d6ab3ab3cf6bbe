import type { Station } from "./station";
import styles from "./stations.module.css";

/** The documents that it may answer from. */
export const sources: Station = {
  name: "Sources",
  reading: () => "none yet",
  mark: () => ({ state: "done" }),
  Sentence: SourcesSentence,
};

function SourcesSentence() {
  return (
    <div className={styles.sentence}>
      Answers from <b>no documents</b>: there are none yet.
    </div>
  );
}
