import type { ReactNode } from "react";
import styles from "./sheet.module.css";

/** How the bracket of the reach runs along a row. */
export interface Bracket {
  carried: boolean;
  /** Whether the row begins or ends a stretch of carried rows. */
  first: boolean;
  last: boolean;
  /** Whether the row is of the newest turn, which was sent as it stands, whatever the next message carries. */
  newest?: boolean;
}

interface Props {
  /** What stands on top in the left margin, and below it; `of` says what the lower is counted in, for those who hear it. */
  turn?: string;
  tokens?: string;
  of?: string;
  tone: "prompt" | "draft" | "visitor" | "app" | "tool";
  /** What the row is, for those who hear it. */
  label: string;
  /** Where the sheet shows the reach. */
  bracket?: Bracket;
  /** What is known of it, on the right. */
  side?: ReactNode;
  /** What stands in the column of figures, while that is shown. */
  figures?: ReactNode;
  /** What can be done about it: always in its place, seen where the row is pointed at or has the focus. */
  actions?: ReactNode;
  /** Whether these are seen all the time. */
  showsActions?: boolean;
  children: ReactNode;
}

/** One ruled row: the left margin, the text, and what is known of it on the right. It keeps its height when it is pointed at. */
export function SheetRow({
  turn,
  tokens,
  of = "tokens",
  tone,
  label,
  bracket,
  side,
  figures,
  actions,
  showsActions = false,
  children,
}: Props) {
  return (
    <article
      className={styles.row}
      data-tone={tone}
      data-carried={bracket?.carried}
      data-newest={bracket && (bracket.newest ?? false)}
      data-first={bracket?.first}
      data-last={bracket?.last}
      aria-label={label}
    >
      <div className={styles.margin}>
        <b>{turn ?? "\u00a0"}</b>
        {tokens && (
          <>
            {tokens}
            {of && <span className="unseen"> {of}</span>}
          </>
        )}
      </div>
      <div className={styles.text}>
        {children}
        {actions && (
          <div className={styles.actions} data-stays={showsActions}>
            {actions}
          </div>
        )}
      </div>
      <div className={styles.side}>{side}</div>
      {figures && <div className={styles.figures}>{figures}</div>}
    </article>
  );
}

/** Who speaks, before the words. */
export function Who({ children }: { children: ReactNode }) {
  return <span className={styles.who}>{children}</span>;
}
