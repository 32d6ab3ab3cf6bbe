import { Action } from "../shared/Action";
import { many } from "../shared/format";
import styles from "./Checks.module.css";
import type { UnrunCheck } from "./groups";
import { LineWords } from "./LineWords";

/** Checks that were not run as they stand now: read as they are written, so that one sees what is to be run. */
export function UnrunChecks({
  unrun,
  hasRun,
  onEdit,
}: {
  unrun: readonly UnrunCheck[];
  hasRun: boolean;
  onEdit: (script: string, line: number) => void;
}) {
  if (unrun.length === 0) return null;
  return (
    <section aria-label="Not run yet">
      <div className={styles.group}>
        <h2>Not run yet</h2>
        <span>
          {many(unrun.length, "check")}
          {hasRun && ": new, or changed since this run"}
        </span>
      </div>
      {unrun.map(({ script, check, isChanged }) => (
        <article key={`${script} ${check.name}`} className={styles.check} aria-label={check.name}>
          {check.lines.map((line, at) => (
            <div key={line.line} className={styles.line} data-kind={line.says.kind}>
              <span className={styles.number}>{line.line}</span>
              <span className={styles.says}>
                {at === 0 ? (
                  <>
                    <b>{check.name}</b>
                    {isChanged && <span className={styles.quiet}>changed since this run</span>}
                    <span className={styles.acts}>
                      <Action aria-label={`Edit ${check.name}`} onClick={() => onEdit(script, line.line)}>
                        edit
                      </Action>
                    </span>
                  </>
                ) : (
                  <LineWords line={line} />
                )}
              </span>
            </div>
          ))}
        </article>
      ))}
    </section>
  );
}
