import { useInfiniteQuery } from "@tanstack/react-query";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { lazy, Suspense } from "react";
import { checks, type ListedRun } from "@/contract/checks";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { ConfirmAction } from "../shared/Confirm";
import { Panel } from "../shared/candidate/Panel";
import { many, moment, price } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import table from "../shared/table.module.css";
import { useChange } from "../shared/use-change";
import { useNow } from "../shared/use-now";
import styles from "./Checks.module.css";

const HeldChart = lazy(() => import("./HeldChart"));

const origins = { bench: "the bench", terminal: "the terminal", schedule: "the schedule" } as const;

/** Earlier runs, and the share that held by revision. */
export function RunList({
  slug,
  shown,
  onClose,
}: {
  slug: string;
  /** The run that the view shows. */
  shown: string | undefined;
  onClose: () => void;
}) {
  const now = useNow();
  const query = useInfiniteQuery({
    queryKey: keys.runs(slug),
    queryFn: ({ pageParam }) => server.send(checks.runs, { slug, before: pageParam }),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: ({ runs, hasMore }) => (hasMore ? runs.at(-1)?.id : undefined),
  });
  const router = useRouter();
  const deleting = useChange("Deleting it", (id: string) => server.send(checks.deleteRun, { id }), [keys.runs(slug)]);
  const all = query.data?.pages.flatMap(({ runs }) => runs) ?? [];
  return (
    <Panel label="Earlier runs" onClose={onClose}>
      {query.error && <ProblemNote problem={query.error.problem} />}
      <Suspense fallback={<div className={styles.chart} aria-busy="true" />}>
        <HeldChart runs={all.filter(({ answers }) => answers === "called")} />
      </Suspense>
      <table className={`${table.table} ${styles.earlier}`}>
        <thead>
          <tr>
            <th>run</th>
            <th>from</th>
            <th>checks</th>
            <th>candidates, and trials that held</th>
            <th>price</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {all.map((run) => (
            <tr key={run.id} aria-current={run.id === shown ? "true" : undefined}>
              <td>
                <Link href={`/apps/${slug}/checks?run=${run.id}`} onClick={onClose}>
                  {moment(run.startedAt, now)}
                </Link>
              </td>
              <td>{origins[run.origin]}</td>
              <td>{many(run.checks, "check")}</td>
              <td>{columnsOf(run)}</td>
              <td>
                {run.answers === "recorded" ? "played" : run.currency === null ? "" : price(run.price, run.currency)}
              </td>
              <td>
                <ConfirmAction
                  question="Delete this run?"
                  says="Its trials are deleted with it, for good."
                  does="Delete it"
                  onDo={async () => {
                    const { ok } = await deleting.done(run.id);
                    if (ok && run.id === shown) router.replace(`/apps/${slug}/checks`);
                    return ok;
                  }}
                  problem={deleting.problem}
                  aria-label={`Delete the run of ${moment(run.startedAt, now)}`}
                >
                  delete
                </ConfirmAction>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {query.hasNextPage && <Action onClick={() => void query.fetchNextPage()}>earlier ones</Action>}
    </Panel>
  );
}

function columnsOf({ columns }: ListedRun): string {
  return columns.map(({ name, held, of }) => `${name} ${held} of ${of}`).join(" · ");
}
