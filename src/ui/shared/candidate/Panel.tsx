import { type ReactNode, useRef } from "react";
import { useLayer } from "../keys/use-layer";
import styles from "./candidate.module.css";

/** What unfolds under the sentence of a view. */
export function Panel({ label, onClose, children }: { label: string; onClose: () => void; children: ReactNode }) {
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  return (
    <section className={styles.panel} aria-label={label} ref={root}>
      {children}
    </section>
  );
}
