import { useMemo, useState } from "react";
import type { CheckScript, Run } from "@/contract/checks";
import { Action } from "../shared/Action";
import { many, moment } from "../shared/format";
import { useNow } from "../shared/use-now";
import { CheckRows } from "./CheckRows";
import styles from "./Checks.module.css";
import { type Against, baseName, type Group, groups, groupTitle, shownChecks, unrunChecks } from "./groups";
import { UnrunChecks } from "./UnrunChecks";

const explained: Record<Group, string> = {
  worse: "by more than chance",
  "perhaps-worse": "too few trials to tell",
  broke: "and no worse for it",
  silent: "a provider did not answer, which says nothing about the app",
  better: "by more than chance",
  same: "",
  untried: "on all candidates",
};

/** A run as a sheet: what is worse stands first, and is open. */
export function RunSheet({
  run,
  against,
  scripts,
  folder,
  nameOf,
  onEdit,
  onMore,
}: {
  run: Run | undefined;
  against: Against | undefined;
  scripts: readonly CheckScript[];
  folder: string | null;
  nameOf: (slug: string) => string;
  onEdit: (script: string, line: number) => void;
  onMore: (check: number, trials: number) => void;
}) {
  const now = useNow();
  const [chosen, setChosen] = useState<number | null>();
  const own = run?.against ?? 0;
  const held = useMemo((): Against => against ?? { kind: "column", place: own }, [against, own]);
  const shown = useMemo(() => (run ? shownChecks(run, held) : []), [run, held]);
  const unrun = useMemo(() => unrunChecks(scripts, run), [scripts, run]);
  const [only] = scripts;
  const base = baseName(run, held);
  const place = held.kind === "column" ? held.place : (run?.against ?? 0);
  // the first of those that need to be looked at is open, until one is chosen; while trials come nothing moves by itself
  const leading =
    run?.endedAt === null
      ? undefined
      : shown.find(({ group }) => group !== "same" && group !== "better" && group !== "untried");
  const open = chosen === undefined ? leading?.check.place : (chosen ?? undefined);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
    <section className={styles.sheet} aria-label="Run" tabIndex={0}>
      <div className={styles.columns}>
        <span />
        <span>
          <b>{only && scripts.length === 1 ? `${only.name}.checks` : many(scripts.length, "script")}</b>
          <small>
            {folder === null ? "kept by the app" : `in ${folder}`}
            {only && `, changed ${moment(only.updatedAt, now)}`} ·{" "}
            <Action onClick={() => onEdit(only?.name ?? "", 1)}>edit</Action>
          </small>
        </span>
        {run?.columns.map(({ name, base, revision, content, versions }, at) => (
          <span key={at}>
            <b>{name}</b>
            {(base === "live" || base === "draft") && <small>revision {revision}</small>}
            <small>{versions[0] ?? content.model}</small>
          </span>
        ))}
      </div>
      {groups.map((group) => {
        const some = shown.filter((each) => each.group === group);
        if (!run || some.length === 0) return null;
        return (
          <section key={group} aria-label={groupTitle(group, base)}>
            <div className={styles.group} data-group={group}>
              <h2>{groupTitle(group, base)}</h2>
              <span>
                {many(some.length, "check")}
                {explained[group] && `: ${explained[group]}`}
              </span>
            </div>
            {some.map((each) => (
              <CheckRows
                key={each.check.place}
                {...{ run, nameOf, onMore, onEdit }}
                shown={each}
                against={place}
                isOpen={open === each.check.place}
                onOpen={(next) => setChosen(next ?? null)}
              />
            ))}
          </section>
        );
      })}
      <UnrunChecks unrun={unrun} hasRun={run !== undefined} onEdit={onEdit} />
    </section>
  );
}
