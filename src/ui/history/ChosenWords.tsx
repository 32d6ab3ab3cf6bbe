import { benchConversations } from "@/contract/conversations";
import { server } from "../shared/api";
import { many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { useChange } from "../shared/use-change";
import { askedFor, type FilterWords } from "./filter-words";
import styles from "./HistoryView.module.css";
import type { Deletion } from "./use-deletion";

/** What is done with the conversations that are chosen, and with all that are found. */
export function ChosenWords({
  slug,
  filter,
  found,
  chosen,
  setChosen,
  deletion,
}: {
  slug: string;
  filter: FilterWords;
  found: number;
  chosen: ReadonlySet<string>;
  setChosen: (chosen: ReadonlySet<string>) => void;
  deletion: Deletion;
}) {
  const choosing = useChange("Choosing them", async () => {
    const { ids } = await server.send(benchConversations.found, { slug, ...askedFor(filter, Date.now()) });
    setChosen(new Set(ids));
  });
  const problem = deletion.problem ?? choosing.problem;
  return (
    <div className={styles.chosen}>
      {chosen.size > 0 ? (
        <>
          With <b>{many(chosen.size, "conversation")} chosen</b>:{" "}
          <button
            type="button"
            className="link"
            onClick={() => {
              deletion.remove([...chosen]);
              setChosen(new Set());
            }}
          >
            delete
          </button>
          , or{" "}
          <button type="button" className="link" onClick={() => setChosen(new Set())}>
            let them go
          </button>
          .
        </>
      ) : (
        found > 0 && (
          <button type="button" className="link" onClick={() => choosing.run()}>
            choose {found === 1 ? "it" : `all ${found}`}
          </button>
        )
      )}
      {deletion.last.length > 0 && (
        <span role="status">
          {" "}
          {many(deletion.last.length, "conversation")} deleted.{" "}
          <button type="button" className="link" onClick={deletion.undo}>
            undo
          </button>
        </span>
      )}
      {problem && <ProblemNote problem={problem} />}
    </div>
  );
}
