import type { ReactNode } from "react";
import styles from "./inline.module.css";

/** A part of a sentence that unfolds what is rarely needed. */
export function Unfolds({ isOpen, onClick, children }: { isOpen: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" className={styles.unfolds} aria-expanded={isOpen} onClick={onClick}>
      {children}
    </button>
  );
}
