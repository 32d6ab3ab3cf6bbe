import { type ReactNode, useEffect, useRef } from "react";
import { Action } from "../Action";
import { useLayer } from "../keys/use-layer";
import styles from "./sheet.module.css";

/**
 * What unfolds under a row, over the full width: it comes into sight from its head, takes the focus there where nothing
 * in it did, and is folded by its word or by Escape.
 * @param isRead whether what stands in it is there; it comes into sight once it is
 */
export function Unfolding({
  label,
  isRead = true,
  onFold,
  children,
}: {
  label: string;
  isRead?: boolean;
  onFold: () => void;
  children: ReactNode;
}) {
  const panel = useRef<HTMLElement>(null);
  useLayer(panel, onFold);
  useEffect(() => {
    const { current } = panel;
    if (!isRead || !current) return;
    if (!current.contains(document.activeElement)) current.focus({ preventScroll: true });
    // whoever follows the end of a text as it comes does not, from here on
    current.dispatchEvent(new Event("unfold", { bubbles: true }));
    intoSight(current);
  }, [isRead]);
  return (
    <section className={styles.unfolding} aria-label={label} aria-busy={!isRead} ref={panel} tabIndex={-1}>
      <Action className={styles.fold} onClick={onFold}>
        fold
      </Action>
      {children}
    </section>
  );
}

/** Pixels of the row above that stay in sight. */
const shownAbove = 48;

/** Scrolls what an element stands in so that the element is seen from its head on. */
export function intoSight(element: HTMLElement): void {
  const frame = frameOf(element);
  const isPage = frame === document.documentElement;
  const at = element.getBoundingClientRect().top - (isPage ? 0 : frame.getBoundingClientRect().top);
  const end = at + element.offsetHeight;
  if (at >= 0 && end <= frame.clientHeight) return;
  frame.scrollTop += at - shownAbove;
}

/** What scrolls an element: the nearest frame around it, or the page. */
function frameOf(element: HTMLElement): HTMLElement {
  for (let above = element.parentElement; above && above !== document.body; above = above.parentElement)
    if (above.scrollHeight > above.clientHeight && /auto|scroll/.test(getComputedStyle(above).overflowY)) return above;
  return document.documentElement;
}
