import { useRouter } from "next/navigation";
import { addressFor } from "@/contract/call";
import { benchConversations } from "@/contract/conversations";
import { exports } from "@/contract/exports";
import { jobs } from "@/contract/jobs";
import { sets } from "@/contract/sets";
import { mostRows, writtenRows } from "@/core/comparing/sets/rows";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { count, many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { keptTexts } from "../shared/use-kept-text";
import { askedFor, type HistoryFilter } from "./filter";
import styles from "./HistoryView.module.css";
import type { Deletion } from "./use-deletion";

interface Props {
  slug: string;
  filter: HistoryFilter;
  /** How many conversations are found. */
  found: number;
  chosen: ReadonlySet<string>;
  setChosen: (chosen: ReadonlySet<string>) => void;
  deletion: Deletion;
  onImport: () => void;
}

/** What is done with the conversations that are chosen, or with all that are found. */
export function ChosenSentence(props: Props) {
  const { chosen, deletion } = props;
  return (
    <div className={styles.chosen}>
      {chosen.size > 0 ? <WithChosen {...props} /> : <WithFound {...props} />}
      {deletion.last.length > 0 && (
        <span role="status">
          {" "}
          {many(deletion.last.length, "conversation")} deleted. <Action onClick={deletion.undo}>undo</Action>
        </span>
      )}
      {deletion.problem && <ProblemNote problem={deletion.problem} />}
    </div>
  );
}

function WithChosen(props: Props) {
  const { chosen, setChosen, filter } = props;
  const none = () => setChosen(new Set());
  return (
    <>
      With <b>{many(chosen.size, "conversation")} chosen</b>:{" "}
      {filter.deleted ? (
        <Action
          onClick={() => {
            props.deletion.restore([...chosen]);
            none();
          }}
        >
          restore
        </Action>
      ) : (
        <DoneWithChosen {...props} />
      )}
      , or <Action onClick={none}>choose none</Action>.
    </>
  );
}

function DoneWithChosen({ slug, chosen, setChosen, deletion }: Props) {
  const again = useChange("Saying them again", async () => {
    for (const id of chosen) await server.send(jobs.sayAgain, { id, body: {} });
    setChosen(new Set());
  }, [keys.jobs]);
  const router = useRouter();
  const asking = useChange("Making a set of them", async (which: "first" | "all") => {
    const { rows } = await server.send(sets.fromConversations, {
      slug,
      body: { conversations: [...chosen].slice(0, mostRows), which },
    });
    keptTexts.write(`finch.set.${slug}`, writtenRows(rows));
    router.push(`/apps/${slug}/compare?set=new`);
  });
  return (
    <>
      <Exports slug={slug} which={{ ids: [...chosen].join(",") }} />, compare candidates on{" "}
      <Action disabled={asking.isRunning} onClick={() => asking.run("first")}>
        {chosen.size === 1 ? "its first message" : "their first messages"}
      </Action>{" "}
      or{" "}
      <Action disabled={asking.isRunning} onClick={() => asking.run("all")}>
        all of them
      </Action>
      {chosen.size > mostRows && ` (the first ${mostRows})`},{" "}
      <Action disabled={again.isRunning} onClick={() => again.run()}>
        say again on the draft
      </Action>
      ,{" "}
      <Action
        onClick={() => {
          deletion.remove([...chosen]);
          setChosen(new Set());
        }}
      >
        delete
      </Action>
      {again.problem && <ProblemNote problem={again.problem} />}
      {asking.problem && <ProblemNote problem={asking.problem} />}
    </>
  );
}

function WithFound({ slug, filter, found, setChosen, onImport }: Props) {
  const choosing = useChange("Choosing them", async () => {
    const { ids } = await server.send(benchConversations.found, { slug, ...askedFor(filter, Date.now()) });
    setChosen(new Set(ids));
  });
  return (
    <>
      {found > 0 && (
        <>
          With {found === 1 ? "it" : `all ${count(found)}`}:{" "}
          {!filter.deleted && (
            <>
              <Exports slug={slug} which={askedFor(filter, Date.now())} />,{" "}
            </>
          )}
          <Action onClick={() => choosing.run()}>choose them</Action>. Or{" "}
        </>
      )}
      <Action onClick={onImport}>import a file</Action>.{choosing.problem && <ProblemNote problem={choosing.problem} />}
    </>
  );
}

/** Links to conversations as a file, in each of the forms. */
function Exports({ slug, which }: { slug: string; which: object }) {
  const href = (as: "jsonl" | "markdown" | "csv") => addressFor(exports.history, { slug, as, ...which });
  return (
    <>
      export as{" "}
      <a href={href("jsonl")} download>
        JSON Lines
      </a>
      ,{" "}
      <a href={href("markdown")} download>
        Markdown
      </a>
      ,{" "}
      <a href={href("csv")} download>
        figures
      </a>
    </>
  );
}
