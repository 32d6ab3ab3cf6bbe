import type { Segment } from "@/core/wire/marks/marks";
import styles from "./MarkedText.module.css";

/** A real text with the parts marked that a profile fills or takes, each with what it is. */
export function MarkedText({ segments, label }: { segments: Segment[]; label: string }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a text that scrolls has to be reachable by keyboard
    <section className={styles.text} aria-label={label} tabIndex={0}>
      {segments.map(({ text, mark }, at) =>
        mark ? (
          <mark key={at} data-tone={mark.tone}>
            {text}
            <small> {mark.what}</small>
          </mark>
        ) : (
          text
        ),
      )}
    </section>
  );
}
