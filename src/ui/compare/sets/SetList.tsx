import Link from "next/link";
import { useRef, useState } from "react";
import { type ListedSet, sets } from "@/contract/sets";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import panel from "../../shared/candidate/candidate.module.css";
import { many, moment } from "../../shared/format";
import { useLayer } from "../../shared/keys/use-layer";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import tables from "../../shared/table.module.css";
import { useChange } from "../../shared/use-change";
import styles from "../Compare.module.css";

/** The sets that are saved: each is opened or deleted. */
export function SetList({
  slug,
  all,
  open,
  onDeleted,
  onClose,
}: {
  slug: string;
  all: readonly ListedSet[];
  /** The one that is open. */
  open: string | undefined;
  onDeleted: (id: string) => void;
  onClose: () => void;
}) {
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  const [now] = useState(() => Date.now());
  const [deleted, setDeleted] = useState<string>();
  const touches = [keys.sets(slug), keys.jobs];
  const deleting = useChange("Deleting it", (id: string) => server.send(sets.delete, { id }), touches);
  const restoring = useChange("Restoring it", (id: string) => server.send(sets.restore, { id }), touches);
  const remove = async (id: string) => {
    if (!(await deleting.done(id)).ok) return;
    setDeleted(id);
    onDeleted(id);
  };
  const undo = async (id: string) => {
    if ((await restoring.done(id)).ok) setDeleted(undefined);
  };
  const problem = deleting.problem ?? restoring.problem;
  return (
    <section className={panel.panel} aria-label="Saved sets" ref={root}>
      {problem && <ProblemNote problem={problem} />}
      {deleted !== undefined && (
        <p>
          1 set deleted. <Action onClick={() => void undo(deleted)}>undo</Action>
        </p>
      )}
      {all.length === 0 ? (
        <p>Nothing is saved yet: a set is saved by itself once it is asked.</p>
      ) : (
        <table className={tables.table}>
          <thead>
            <tr>
              <th scope="col">set</th>
              <th scope="col">messages</th>
              <th scope="col">lanes</th>
              <th scope="col">last asked</th>
              <th scope="col">
                <span className="unseen">acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {all.map(({ id, name, opening, rows, lanes, state, updatedAt }) => (
              <tr key={id}>
                <td>
                  <Link href={`/apps/${slug}/compare?set=${id}`} aria-current={id === open ? "page" : undefined}>
                    {(name ?? opening).slice(0, 90)}
                  </Link>
                </td>
                <td>{many(rows, "message")}</td>
                <td>{lanes}</td>
                <td>
                  {moment(updatedAt, now)}
                  {state === "running" && ", under way"}
                </td>
                <td>
                  <Action onClick={() => void remove(id)}>delete</Action>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className={styles.acts}>
        <Action onClick={onClose}>fold</Action>
      </div>
    </section>
  );
}
