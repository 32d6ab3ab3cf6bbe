import type { ReactNode } from "react";
import type { Problem } from "@/core/problem/problem";
import { titleOf } from "@/core/problem/problem";
import styles from "./ProblemNote.module.css";

/** A failure in place: what happened, why, what to do, and what can be done at once. */
export function ProblemNote({
  problem,
  children,
}: {
  problem: Pick<Problem, "kind" | "detail" | "advice">;
  children?: ReactNode;
}) {
  return (
    <div className={styles.note} role="alert">
      <b>{titleOf(problem.kind)}.</b> {problem.detail} {problem.advice}
      {children && <div className={styles.actions}>{children}</div>}
    </div>
  );
}
