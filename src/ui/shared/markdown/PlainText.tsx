import { type ReactNode, useState } from "react";
import { Action } from "../Action";
import { count as figure } from "../format";
import styles from "./Markdown.module.css";
import { type Mark, marksWithin } from "./marks";
import { Stretches } from "./Stretches";

/** Characters of a plain text that are one element of the page. */
const pieceSize = 4_000;
/** Pieces that are shown until more are asked for. */
const shownPieces = 50;
const none: readonly Mark[] = [];

/** Text as it stands, of whatever length, with the marks that it is given. */
export function PlainText({ text, marks = none }: { text: string; marks?: readonly Mark[] }): ReactNode {
  const [most, setMost] = useState(shownPieces);
  if (text.length <= pieceSize)
    return (
      <span className={styles.plain}>
        <Stretches text={text} marks={marks} />
      </span>
    );
  const count = Math.ceil(text.length / pieceSize);
  return (
    <>
      {Array.from({ length: Math.min(count, most) }, (_, at) => (
        <span key={at} className={styles.piece}>
          <Stretches
            text={text.slice(at * pieceSize, (at + 1) * pieceSize)}
            marks={marksWithin(marks, at * pieceSize, pieceSize)}
          />
        </span>
      ))}
      {count > most && (
        <Action onClick={() => setMost(most * 4)}>
          show more: {figure(text.length - most * pieceSize)} characters are left
        </Action>
      )}
    </>
  );
}
