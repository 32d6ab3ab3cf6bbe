import { writeLine } from "@/core/checks/line";
import type { Line } from "@/core/checks/script";
import styles from "./Checks.module.css";

/** A line of the script, its first word told apart. */
export function LineWords({ line: { says } }: { line: Line }) {
  if (says.kind === "expect") return <>{writeLine(says).trim()}</>;
  if (says.kind === "visitor" || says.kind === "app")
    return (
      <>
        <b>{says.kind}</b> {says.text}
      </>
    );
  return <span className={styles.quiet}>{writeLine(says)}</span>;
}
