import Link from "next/link";
import { useRef, useState } from "react";
import { comparisons, type ListedComparison } from "@/contract/comparisons";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import panel from "../shared/candidate/candidate.module.css";
import { many, moment } from "../shared/format";
import { TextValue } from "../shared/inline/TextValue";
import { useLayer } from "../shared/keys/use-layer";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import tables from "../shared/table.module.css";
import { useChange } from "../shared/use-change";
import styles from "./Compare.module.css";

/** The comparisons that are saved: each is opened, named, copied or deleted. */
export function ComparisonList({
  slug,
  all,
  open,
  onDeleted,
  onClose,
}: {
  slug: string;
  all: readonly ListedComparison[];
  /** The one that is open. */
  open: string | undefined;
  onDeleted: (id: string) => void;
  onClose: () => void;
}) {
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  const [now] = useState(() => Date.now());
  const [deleted, setDeleted] = useState<string>();
  const touches = [keys.comparisons(slug), ["comparison"]];
  const naming = useChange(
    "The name",
    ({ id, name }: { id: string; name: string }) =>
      server.send(comparisons.name, { id, body: { name: name.trim() || null } }),
    touches,
  );
  const copying = useChange("The copy", (id: string) => server.send(comparisons.copy, { id, body: {} }), touches);
  const deleting = useChange("Deleting it", (id: string) => server.send(comparisons.delete, { id }), touches);
  const restoring = useChange("Restoring it", (id: string) => server.send(comparisons.restore, { id }), touches);
  const remove = async (id: string) => {
    if (!(await deleting.done(id)).ok) return;
    setDeleted(id);
    onDeleted(id);
  };
  const undo = async (id: string) => {
    if ((await restoring.done(id)).ok) setDeleted(undefined);
  };
  const problem = naming.problem ?? copying.problem ?? deleting.problem ?? restoring.problem;
  return (
    <section className={panel.panel} aria-label="Saved comparisons" ref={root}>
      {problem && <ProblemNote problem={problem} />}
      {deleted !== undefined && (
        <p>
          1 comparison deleted. <Action onClick={() => void undo(deleted)}>undo</Action>
        </p>
      )}
      {all.length === 0 ? (
        <p>Nothing is saved yet: a comparison is saved by itself once it was asked something.</p>
      ) : (
        <table className={tables.table}>
          <thead>
            <tr>
              <th scope="col">comparison</th>
              <th scope="col">name</th>
              <th scope="col">turns</th>
              <th scope="col">lanes</th>
              <th scope="col">last asked</th>
              <th scope="col">
                <span className="unseen">acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {all.map(({ id, name, opening, turns, lanes, updatedAt }) => (
              <tr key={id}>
                <td>
                  <Link href={`/apps/${slug}/compare?comparison=${id}`} aria-current={id === open ? "page" : undefined}>
                    {(name ?? opening).slice(0, 90)}
                  </Link>
                </td>
                <td>
                  <TextValue
                    label={`Name of ${name ?? opening.slice(0, 40)}`}
                    value={name ?? ""}
                    placeholder="none"
                    maxLength={100}
                    onChange={(next) => naming.run({ id, name: next })}
                  />
                </td>
                <td>{many(turns, "turn")}</td>
                <td>{lanes}</td>
                <td>{moment(updatedAt, now)}</td>
                <td>
                  <Action onClick={() => copying.run(id)}>copy</Action>{" "}
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
