"use client";

import { Markdown } from "../shared/markdown/Markdown";
import styles from "./DocView.module.css";

/** A page of the docs, as the bench shows it. */
export function DocView({ text }: { text: string }) {
  return (
    <main className={styles.doc}>
      <Markdown text={text} />
    </main>
  );
}
