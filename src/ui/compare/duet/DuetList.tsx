import Link from "next/link";
import { useRef, useState } from "react";
import { duets, type ListedDuet } from "@/contract/duets";
import type { DuetEnd } from "@/core/comparing/duet/duet";
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

const wordOf: Record<DuetEnd["kind"], string> = {
  rounds: "after its rounds",
  goodbye: "with a goodbye",
  circles: "in circles",
  price: "at its price",
  tokens: "at its tokens",
  stopped: "stopped",
  failed: "failed",
};

/** The duets that are saved: each is opened or deleted. */
export function DuetList({
  slug,
  all,
  open,
  onDeleted,
  onClose,
}: {
  slug: string;
  all: readonly ListedDuet[];
  /** The one that is open. */
  open: string | undefined;
  onDeleted: (id: string) => void;
  onClose: () => void;
}) {
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  const [now] = useState(() => Date.now());
  const [deleted, setDeleted] = useState<string>();
  const touches = [keys.duets(slug)];
  const deleting = useChange("Deleting it", (id: string) => server.send(duets.delete, { id }), touches);
  const restoring = useChange("Restoring it", (id: string) => server.send(duets.restore, { id }), touches);
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
    <section className={panel.panel} aria-label="Saved duets" ref={root}>
      {problem && <ProblemNote problem={problem} />}
      {deleted !== undefined && (
        <p>
          1 duet deleted. <Action onClick={() => void undo(deleted)}>undo</Action>
        </p>
      )}
      {all.length === 0 ? (
        <p>Nothing is saved yet: a duet is saved by itself once it has begun.</p>
      ) : (
        <table className={tables.table}>
          <thead>
            <tr>
              <th scope="col">duet</th>
              <th scope="col">said</th>
              <th scope="col">how it ended</th>
              <th scope="col">last changed</th>
              <th scope="col">
                <span className="unseen">acts</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {all.map(({ id, name, opening, utterances, ended, updatedAt }) => (
              <tr key={id}>
                <td>
                  <Link href={`/apps/${slug}/compare?duet=${id}`} aria-current={id === open ? "page" : undefined}>
                    {(name ?? opening).slice(0, 90)}
                  </Link>
                </td>
                <td>{many(utterances, "utterance")}</td>
                <td>{ended ? wordOf[ended.kind] : "under way"}</td>
                <td>{moment(updatedAt, now)}</td>
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
