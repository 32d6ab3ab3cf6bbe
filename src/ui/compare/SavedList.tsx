import Link from "next/link";
import { type ReactNode, useState } from "react";
import type { Problem } from "@/core/problem/problem";
import { Action } from "../shared/Action";
import { Panel } from "../shared/candidate/Panel";
import { moment } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import tables from "../shared/table.module.css";
import type { Change } from "../shared/use-change";
import styles from "./Compare.module.css";

/** Something that is saved, as it is listed. */
interface Saved {
  id: string;
  title: string;
  /** What stands in the columns between its title and when it was touched. */
  cells: readonly ReactNode[];
  updatedAt: number;
}

/** What is saved of one kind: each is opened or deleted, which can be undone. */
export function SavedList({
  what,
  heads,
  whenEmpty,
  all,
  open,
  hrefOf,
  deleting,
  restoring,
  problem,
  actsOn,
  onDeleted,
  onClose,
}: {
  /** What one of them is called: "set". */
  what: string;
  /** The heads of the columns between the title and when it was touched. */
  heads: readonly string[];
  whenEmpty: string;
  all: readonly Saved[];
  /** The one that is open. */
  open: string | undefined;
  hrefOf: (id: string) => string;
  deleting: Change<string, unknown>;
  restoring: Change<string, unknown>;
  /** What else went wrong. */
  problem?: Problem;
  /** What else can be done with one. */
  actsOn?: (id: string) => ReactNode;
  onDeleted: (id: string) => void;
  onClose: () => void;
}) {
  const [now] = useState(() => Date.now());
  const [deleted, setDeleted] = useState<string>();
  const remove = async (id: string) => {
    if (!(await deleting.done(id)).ok) return;
    setDeleted(id);
    onDeleted(id);
  };
  const undo = async (id: string) => {
    if ((await restoring.done(id)).ok) setDeleted(undefined);
  };
  const failure = problem ?? deleting.problem ?? restoring.problem;
  return (
    <Panel label={`Saved ${what}s`} onClose={onClose}>
      {failure && <ProblemNote problem={failure} />}
      {deleted !== undefined && (
        <p>
          1 {what} deleted. <Action onClick={() => void undo(deleted)}>undo</Action>
        </p>
      )}
      {all.length === 0 ? (
        <p>{whenEmpty}</p>
      ) : (
        <table className={tables.table}>
          <thead>
            <tr>
              <th scope="col">{what}</th>
              {heads.map((head) => (
                <th key={head} scope="col">
                  {head}
                </th>
              ))}
              <th scope="col">last changed</th>
              <th scope="col">
                <span className="unseen">acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {all.map(({ id, title, cells, updatedAt }) => (
              <tr key={id}>
                <td>
                  <Link href={hrefOf(id)} aria-current={id === open ? "page" : undefined}>
                    {title.slice(0, 90)}
                  </Link>
                </td>
                {heads.map((head, at) => (
                  <td key={head}>{cells[at]}</td>
                ))}
                <td>{moment(updatedAt, now)}</td>
                <td>
                  {actsOn?.(id)} <Action onClick={() => void remove(id)}>delete</Action>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className={styles.acts}>
        <Action onClick={onClose}>fold</Action>
      </div>
    </Panel>
  );
}
