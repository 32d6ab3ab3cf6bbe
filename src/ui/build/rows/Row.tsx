import type { ReactNode } from "react";
import styles from "./Row.module.css";

/** How the bracket of the reach runs along a row. */
export interface Bracket {
  carried: boolean;
  /** Whether the row begins or ends a stretch of carried rows. */
  first: boolean;
  last: boolean;
  /** Whether the row is of the newest turn, which was sent as it stands, whatever the next message carries. */
  newest?: boolean;
}

/** One ruled row: turn and tokens in the left margin, the text, and what is known of it on the right. */
export function Row({
  turn,
  tokens,
  tone,
  carried,
  first,
  last,
  newest = false,
  label,
  side,
  figures,
  children,
}: Bracket & {
  turn?: string;
  tokens?: string;
  tone: "prompt" | "draft" | "visitor" | "app";
  /** What the row is, for those who hear it. */
  label: string;
  side?: ReactNode;
  /** What stands in the column of figures, while that is shown. */
  figures?: ReactNode;
  children: ReactNode;
}) {
  return (
    <article
      className={styles.row}
      data-tone={tone}
      data-carried={carried}
      data-newest={newest}
      data-first={first}
      data-last={last}
      aria-label={label}
    >
      <div className={styles.margin}>
        <b>{turn ?? "\u00a0"}</b>
        {tokens && (
          <>
            {tokens}
            <span className="unseen"> tokens</span>
          </>
        )}
      </div>
      <div className={styles.text}>{children}</div>
      <div className={styles.side}>{side}</div>
      {figures && <div className={styles.figures}>{figures}</div>}
    </article>
  );
}
