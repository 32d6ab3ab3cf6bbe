import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { checks, type Run } from "@/contract/checks";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { duration, moment, price } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useNow } from "../shared/use-now";
import styles from "./Checks.module.css";
import { type Against, baseName, type Group, groups, groupTitle, shownChecks } from "./groups";

const schedules: readonly [hours: number | null, label: string][] = [
  [null, "never"],
  [1, "every hour"],
  [6, "every six hours"],
  [24, "every day"],
  [168, "every week"],
];

/** What came of a run, on a line: what is worse first. */
export function RunSummary({
  slug,
  run,
  against,
  isListed,
  schedule,
  onAgainst,
  onSchedule,
  onList,
  onResume,
}: {
  slug: string;
  run: Run | undefined;
  against: Against | undefined;
  isListed: boolean;
  /** Hours between two runs that the checks make by themselves. */
  schedule: number | null;
  onSchedule: (every: number | null) => void;
  onAgainst: (against: Against | undefined) => void;
  onList: () => void;
  onResume: () => void;
}) {
  const now = useNow();
  const list = useQuery({
    queryKey: [...keys.runs(slug), "latest"],
    queryFn: () => server.send(checks.runs, { slug }),
  });
  const said = useEnding(run);
  const counts = useMemo(() => {
    const sums = new Map<Group, number>();
    if (run)
      for (const { group } of shownChecks(run, against ?? { kind: "column", place: run.against }))
        sums.set(group, (sums.get(group) ?? 0) + 1);
    return sums;
  }, [run, against]);
  if (!run)
    return (
      <div className={styles.under}>
        <span>Nothing was run yet.</span>
      </div>
    );
  const isUnderWay = run.state === "running" || run.state === "waiting";
  const value = against?.kind === "run" ? `run ${against.run.id}` : `column ${against?.place ?? run.against}`;
  const base = baseName(run, against ?? { kind: "column", place: run.against });
  const choose = async (next: string) => {
    const [kind, id = ""] = next.split(" ");
    if (kind === "column") onAgainst({ kind: "column", place: Number(id) });
    else onAgainst({ kind: "run", run: await server.send(checks.read, { id }) });
  };
  const earlier = (list.data?.runs ?? []).filter(({ id }) => id !== run.id).slice(0, 10);
  return (
    <div className={styles.under}>
      <span>
        {moment(run.startedAt, now)}:{" "}
        {isUnderWay ? (
          <>
            {run.done} of {run.of} trials
          </>
        ) : (
          groups
            .flatMap((group) => (counts.has(group) ? [[group, counts.get(group)] as const] : []))
            .map(([group, sum], at) => (
              <span key={group}>
                {at > 0 && ", "}
                <b data-group={group}>
                  {sum} {groupTitle(group, base).toLowerCase()}
                </b>
              </span>
            ))
        )}
      </span>
      <span>
        held against{" "}
        <ChoiceValue
          label="What it is held against"
          value={value}
          options={[
            ...run.columns.map(({ name }, place) => ({
              value: `column ${place}`,
              label: name === "live" ? "the live revision" : name,
            })),
            ...earlier.map(({ id, startedAt }) => ({
              value: `run ${id}`,
              label: `the run of ${moment(startedAt, now)}`,
            })),
          ]}
          onChange={(next) => void choose(next)}
        />
      </span>
      {!isUnderWay && (
        <span>
          {run.held} of {run.of} trials held
          {run.silent > 0 && `, ${run.silent} silent`}
        </span>
      )}
      {run.currency !== null && (
        <span>
          {run.answers === "recorded" ? "played" : price(run.price, run.currency)}
          {run.endedAt !== null && `, ${duration(run.endedAt - run.startedAt)}`}
        </span>
      )}
      {run.canResume && (
        <span>
          {run.state === "stopped" ? "stopped" : "ended early"} · <Action onClick={onResume}>go on with it</Action>
        </span>
      )}
      <Action aria-expanded={isListed} data-focus="list" onClick={onList}>
        earlier runs
      </Action>
      <span>
        run by themselves{" "}
        <ChoiceValue
          label="How often the checks are run by themselves"
          value={String(schedule ?? "")}
          options={schedules.map(([every, label]) => ({ value: String(every ?? ""), label }))}
          onChange={(every) => onSchedule(every === "" ? null : Number(every))}
        />
      </span>
      {run.drift && <DriftWords drift={run.drift} now={now} />}
      {run.problem && <ProblemNote problem={run.problem} />}
      <p className="unseen" role="status">
        {said}
      </p>
    </div>
  );
}

/** What is worse though nothing of the app changed, and as what the provider answers since when. */
function DriftWords({
  drift: { worse, perhapsWorse, version },
  now,
}: {
  drift: NonNullable<Run["drift"]>;
  now: number;
}) {
  const since = version?.before
    ? `${version.model} answers as ${version.version} since ${moment(version.since, now)}, and was ${version.before}`
    : "";
  const some = worse.length > 0 ? worse : perhapsWorse;
  if (some.length === 0) return null;
  return (
    <span>
      <b data-group={worse.length > 0 ? "worse" : "perhaps-worse"}>
        {some.length} {worse.length > 0 ? "worse" : "perhaps worse"} than in earlier runs
      </b>
      , though nothing of the app changed: {some.slice(0, 3).join(", ")}
      {since && ` · ${since}`}
    </span>
  );
}

/** Tells those who hear the page that a run has ended, once. */
function useEnding(run: Run | undefined): string {
  const was = useRef<string>(undefined);
  const [said, setSaid] = useState("");
  const state = run?.state;
  useEffect(() => {
    if (was.current === "running" && run && state !== "running")
      setSaid(`The run has ended: ${run.held} of ${run.of} trials held.`);
    was.current = state;
  }, [run, state]);
  return said;
}
