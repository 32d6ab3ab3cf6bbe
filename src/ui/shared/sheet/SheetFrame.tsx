import { type ReactNode, type Ref, useCallback } from "react";
import { useFollowing } from "../use-following";
import styles from "./SheetFrame.module.css";
import rows from "./sheet.module.css";

/**
 * The ruled sheet that a conversation stands on. It follows the text as it comes, unless the
 * reader has scrolled up; then it offers the way back down.
 * @param end changes when something new was sent, which brings the reader back to the end
 */
export function SheetFrame({
  end,
  isHidden = false,
  hasFigures = false,
  children,
  ref,
}: {
  end: string;
  /** Whether something else stands in its place for now. */
  isHidden?: boolean;
  /** Whether its rows have a column of figures. */
  hasFigures?: boolean;
  children: ReactNode;
  ref?: Ref<HTMLElement>;
}) {
  const { frame, content, onScroll, isAway, toEnd } = useFollowing<HTMLElement, HTMLDivElement>(end);
  const both = useCallback(
    (element: HTMLElement | null) => {
      frame.current = element;
      if (typeof ref === "function") ref(element);
      else if (ref) ref.current = element;
    },
    [frame, ref],
  );
  return (
    <div className={styles.holder} hidden={isHidden}>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <section className={styles.sheet} ref={both} onScroll={onScroll} aria-label="Conversation" tabIndex={0}>
        <div ref={content} className={hasFigures ? rows.withFigures : undefined}>
          {children}
        </div>
      </section>
      {isAway && (
        <button type="button" className={styles.back} onClick={toEnd}>
          ↓ to the end
        </button>
      )}
    </div>
  );
}
