import { type ReactNode, useCallback, useEffect, useRef, useState } from "react";
import styles from "./Sheet.module.css";

/** Pixels from the end within which the reader still counts as following. */
const nearEnd = 48;

/**
 * The ruled sheet that a conversation stands on. It follows the text as it comes, unless the
 * reader has scrolled up; then it offers the way back down.
 * @param end changes when something new was sent, which brings the reader back to the end
 */
export function Sheet({ end, children }: { end: string; children: ReactNode }) {
  const frame = useRef<HTMLElement>(null);
  const content = useRef<HTMLDivElement>(null);
  const follows = useRef(true);
  const top = useRef(0);
  const [isAway, setAway] = useState(false);

  const toEnd = useCallback(() => {
    follows.current = true;
    setAway(false);
    if (frame.current) frame.current.scrollTop = frame.current.scrollHeight;
  }, []);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new end is what brings the reader back
  useEffect(toEnd, [end, toEnd]);

  useEffect(() => {
    if (!content.current) return;
    const observer = new ResizeObserver(() => {
      if (follows.current && frame.current) frame.current.scrollTop = frame.current.scrollHeight;
    });
    observer.observe(content.current);
    if (frame.current) observer.observe(frame.current);
    return () => observer.disconnect();
  }, []);

  const onScroll = () => {
    const { scrollTop, scrollHeight, clientHeight } = frame.current as HTMLElement;
    // text that came since the sheet was moved takes it from its end; only a reader moves it up
    if (scrollHeight - scrollTop - clientHeight < nearEnd) follows.current = true;
    else if (scrollTop < top.current) follows.current = false;
    top.current = scrollTop;
    setAway(!follows.current);
  };

  return (
    <div className={styles.holder}>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <section className={styles.sheet} ref={frame} onScroll={onScroll} aria-label="Conversation" tabIndex={0}>
        <div ref={content}>{children}</div>
      </section>
      {isAway && (
        <button type="button" className={styles.back} onClick={toEnd}>
          ↓ to the end
        </button>
      )}
    </div>
  );
}
