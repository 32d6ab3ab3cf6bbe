import { useQuery } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import { jobs } from "@/contract/jobs";
import { sources as calls, type Source } from "@/contract/sources";
import { labelSchema, mostLabels, type Sources, withDocument } from "@/core/sources/sources";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { ConfirmAction } from "../../shared/Confirm";
import type { DocumentPlace } from "../../shared/documents/DocumentSheet";
import { count, many, moment } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { TextValue } from "../../shared/inline/TextValue";
import type { Read } from "../../shared/inline/taken";
import { isRunning, useJobs } from "../../shared/jobs/use-jobs";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import tables from "../../shared/table.module.css";
import { useChange } from "../../shared/use-change";
import { useNow } from "../../shared/use-now";
import { kindWords } from "../../shared/wording/places";
import { AddressForm, FolderForm } from "./DocumentForms";
import styles from "./SourcesStation.module.css";
import type { useSources } from "./use-sources";
import { type DigestMaker, WholeDocument } from "./WholeDocument";

/** The documents of an app: dropped, picked or named by address; how far each is read; and which of them it answers from. */
export function Documents({
  app: { slug },
  all,
  query,
  sources,
  maker,
  onChange,
  onOpen,
}: {
  app: App;
  all: readonly Source[];
  query: ReturnType<typeof useSources>;
  sources: Sources;
  /** The model that makes digests. */
  maker: DigestMaker | undefined;
  onChange: (part: Partial<Sources>) => void;
  onOpen: (place: DocumentPlace) => void;
}) {
  const [isOver, setOver] = useState(false);
  const [asks, setAsks] = useState<"address" | "folder">();
  const picker = useRef<HTMLInputElement>(null);
  const touches = [keys.sources(slug), keys.found(slug), keys.jobs];
  const named = useRef(sources);
  named.current = sources;
  // those that come one after another are all named
  const take = ({ id, hash }: Source, how: "fixed" | "follows" = "fixed") => {
    const documents = withDocument(named.current.documents, id, how === "fixed" ? hash : undefined);
    named.current = { ...named.current, documents };
    onChange({ documents });
  };
  const adding = useChange(
    "The document",
    async (files: readonly File[]) => {
      for (const file of files) take(await server.sendBytes(calls.addFile, { slug, name: file.name }, file));
    },
    touches,
  );
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const files = [...event.dataTransfer.files];
    if (files.length > 0) adding.run(files);
  };
  return (
    <section
      className={styles.documents}
      aria-label="Documents"
      data-over={isOver}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <div className={styles.head}>
        <h2>Documents</h2>
        <span>
          drop files here, <Action onClick={() => picker.current?.click()}>choose files</Action>,{" "}
          <Action
            aria-expanded={asks === "address"}
            onClick={() => setAsks(asks === "address" ? undefined : "address")}
          >
            name an address
          </Action>{" "}
          or{" "}
          <Action aria-expanded={asks === "folder"} onClick={() => setAsks(asks === "folder" ? undefined : "folder")}>
            a folder
          </Action>
        </span>
        <input
          ref={picker}
          type="file"
          multiple
          hidden
          aria-label="Files to add as documents"
          onChange={({ target }) => {
            const files = [...(target.files ?? [])];
            target.value = "";
            if (files.length > 0) adding.run(files);
          }}
        />
      </div>
      {asks === "address" && (
        <AddressForm
          slug={slug}
          onAdded={(source) => {
            take(source);
            setAsks(undefined);
          }}
          onClose={() => setAsks(undefined)}
        />
      )}
      {asks === "folder" && (
        <FolderForm
          slug={slug}
          onAdded={(added) => {
            for (const source of added) take(source, "follows");
          }}
          onClose={() => setAsks(undefined)}
        />
      )}
      <LeftPages slug={slug} />
      {query.data?.folders.map((path) => (
        <Folder key={path} {...{ slug, path }} />
      ))}
      {adding.problem && <ProblemNote problem={adding.problem} />}
      {query.error && <ProblemNote problem={query.error.problem} />}
      {all.length > 0 && (
        <table className={tables.table}>
          <thead>
            <tr>
              <th scope="col">name</th>
              <th scope="col">kind</th>
              <th scope="col">passages</th>
              <th scope="col">tokens</th>
              <th scope="col">read</th>
            </tr>
          </thead>
          <tbody>
            {all.map((source) => (
              <DocumentRow
                key={source.id}
                {...{ slug, source, sources, maker, onChange, onOpen }}
                onTake={(how) => take(source, how)}
              />
            ))}
          </tbody>
        </table>
      )}
      {adding.isRunning && (
        <p className={styles.quiet} role="status">
          Taking it in…
        </p>
      )}
    </section>
  );
}

/** Pages below an address that could not be taken, of what was asked for since this was opened. */
function LeftPages({ slug }: { slug: string }) {
  const [opened] = useState(Date.now);
  const ended = useJobs().find(
    ({ app, work, state, at }) => app === slug && work.kind === "pages" && state !== "running" && at > opened,
  );
  const left = ended?.work.kind === "pages" ? ended.work.left : [];
  if (!ended?.problem && left.length === 0) return null;
  return (
    <div className={styles.quiet} role="status">
      {ended?.problem && <p>{ended.problem.detail}</p>}
      {left.length > 0 && <p>Not taken: {left.map(({ why }) => why).join(" ")}</p>}
    </div>
  );
}

function DocumentRow({
  slug,
  source,
  sources,
  maker,
  onTake,
  onChange,
  onOpen,
}: {
  slug: string;
  source: Source;
  sources: Sources;
  maker: DigestMaker | undefined;
  onTake: (how: "fixed" | "follows") => void;
  onChange: (part: Partial<Sources>) => void;
  onOpen: (place: DocumentPlace) => void;
}) {
  const { id, title, short, kind, parts, passages, tokens, hash, isRead } = source;
  const touches = [keys.sources(slug), keys.found(slug)];
  const named = sources.documents.find((each) => each.source === id);
  const others = sources.documents.filter((each) => each.source !== id);
  const deleting = useChange(
    "The document",
    async () => {
      await server.send(calls.delete, { id });
      onChange({ documents: others });
    },
    touches,
  );
  const isNewer = named?.version !== undefined && named.version !== hash;
  const [showsChanges, setShowsChanges] = useState(false);
  const takeWhole = (whole: Sources["documents"][number]["whole"]) =>
    onChange({ documents: sources.documents.map((each) => (each.source === id ? { ...each, whole } : each)) });
  const row = (
    <tr>
      <th scope="row">
        {isRead ? <Action onClick={() => onOpen({ source: id, title })}>{title}</Action> : title}
        <small>[{short} …]</small>
        {named && (
          <small>
            sent{" "}
            <ChoiceValue
              label={`How ${title} is sent`}
              value={named.whole ? "whole" : "passages"}
              options={[
                { value: "passages", label: "by passages" },
                { value: "whole", label: "whole" },
              ]}
              onChange={(how) => takeWhole(how === "whole" ? {} : undefined)}
            />
            , for{" "}
            <TextValue
              label={`For whom ${title} is: labels`}
              value={named.labels?.join(", ") ?? ""}
              placeholder="everybody"
              maxLength={mostLabels * 42}
              read={readLabels}
              onChange={(text) => {
                const labels = labelsIn(text);
                const next = { ...named, labels: labels.length > 0 ? labels : undefined };
                onChange({ documents: sources.documents.map((each) => (each === named ? next : each)) });
              }}
            />
          </small>
        )}
      </th>
      <td>
        {kindWords[kind]}
        {kind === "pdf" && parts !== null && `, ${many(parts, "page")}`}
      </td>
      <td>{passages === null ? "" : count(passages)}</td>
      <td>{tokens === null ? "" : count(tokens)}</td>
      <td>
        <Reading slug={slug} source={source} />
        <small data-tone={isNewer ? "caution" : undefined}>
          {named === undefined ? (
            <Action onClick={() => onTake("fixed")}>answer from it</Action>
          ) : isNewer ? (
            <>
              changed since:{" "}
              <Action aria-expanded={showsChanges} onClick={() => setShowsChanges(!showsChanges)}>
                what changed
              </Action>{" "}
              · <Action onClick={() => onTake("fixed")}>take the newer one</Action>
            </>
          ) : (
            <>
              <Action
                aria-label={
                  named.version === undefined ? `${title} follows: fix it` : `${title} is fixed: let it follow`
                }
                onClick={() => onTake(named.version === undefined ? "fixed" : "follows")}
              >
                {named.version === undefined ? "follows" : "fixed"}
              </Action>{" "}
              · <Action onClick={() => onChange({ documents: others })}>leave it out</Action>
            </>
          )}{" "}
          ·{" "}
          <ConfirmAction
            question={`Delete ${title}?`}
            says="Revisions that answer from it find nothing in it any more."
            does="Delete it"
            aria-label={`Delete ${title}`}
            problem={deleting.problem}
            onDo={() => deleting.done().then(({ ok }) => ok)}
          >
            delete
          </ConfirmAction>
        </small>
        {isNewer && showsChanges && <Changes id={id} from={named.version ?? ""} hash={hash} />}
      </td>
    </tr>
  );
  if (!named?.whole) return row;
  return (
    <>
      {row}
      <tr>
        <td colSpan={5} className={styles.whole}>
          <WholeDocument {...{ slug, source, named, maker }} onChange={takeWhole} />
        </td>
      </tr>
    </>
  );
}

function labelsIn(text: string): string[] {
  return [...new Set(text.split(/[,\s]+/).filter(Boolean))];
}

function readLabels(text: string): Read<string> {
  const labels = labelsIn(text);
  if (labels.length > mostLabels) return { kind: "wrong", why: `are more than ${mostLabels}` };
  const wrong = labels.find((label) => !labelSchema.safeParse(label).success);
  return wrong === undefined
    ? { kind: "value", value: labels.join(", ") }
    : { kind: "wrong", why: `${wrong.slice(0, 20)} is no label: letters, figures, - and _ make one` };
}

/** What the newer version of a document says otherwise, before it counts. */
function Changes({ id, from, hash }: { id: string; from: string; hash: string }) {
  const query = useQuery({
    queryKey: [...keys.document(id), "changes", from, hash],
    queryFn: () => server.send(calls.changes, { id, from }),
  });
  if (query.error) return <ProblemNote problem={query.error.problem} />;
  if (!query.data) return null;
  const { added, gone, same, more } = query.data;
  return (
    <div className={styles.changes}>
      {gone.map((text) => (
        <del key={text}>{text}</del>
      ))}
      {added.map((text) => (
        <ins key={text}>{text}</ins>
      ))}
      <small>
        {more > 0 && `${many(more, "more change")}; `}
        {many(same, "part")} the same
      </small>
    </div>
  );
}

/** How far a document is read, and what can be done about that. */
function Reading({ slug, source }: { slug: string; source: Source }) {
  const { id, title, kind, isRead, parts, partsRead, passages, hadAt, problem, unread, origin } = source;
  const job = useJobs().find((each) => each.app === slug && each.work.kind === "reading" && isRunning(each));
  const touches = [keys.sources(slug), keys.found(slug), keys.jobs];
  const stopping = useChange("Stopping it", (job: string) => server.send(jobs.stop, { id: job }), touches);
  const going = useChange("Reading it", () => server.send(calls.read, { slug }), touches);
  const looking = useChange("Looking at it", () => server.send(calls.lookAgain, { id }), touches);
  const now = useNow();
  const isOn = job?.work.kind === "reading" && job.work.source === id;
  const failure = looking.problem ?? going.problem ?? problem;
  if (isOn && job.work.kind === "reading" && passages === null) {
    const { phase } = job.work;
    const said = phase === "cutting" ? "being cut" : kind === "pdf" ? `page ${job.done} of ${job.of}` : "being read";
    return (
      <>
        {said}{" "}
        <Action aria-label={`Stop reading ${title}`} onClick={() => stopping.run(job.id)}>
          stop
        </Action>
        <span className={styles.progress} aria-hidden="true">
          <i style={{ width: `${job.of === 0 ? 0 : (job.done / job.of) * 100}%` }} />
        </span>
      </>
    );
  }
  return (
    <>
      {isRead ? moment(hadAt, now) : problem ? "can't be read" : job ? "waits" : `${partsRead} of ${parts ?? "?"}`}
      {!isRead && !problem && !job && (
        <>
          {" "}
          <Action onClick={() => going.run()}>go on</Action>
        </>
      )}
      {origin.kind === "address" && (
        <>
          {" "}
          <Action aria-label={`Look whether ${title} has changed`} onClick={() => looking.run()}>
            look again
          </Action>
        </>
      )}
      {failure && (
        <small data-tone="caution" role="status">
          {failure.detail} {failure.advice}
        </small>
      )}
      {unread.length > 0 && <small data-tone="caution">{wordsOfUnread(unread)}</small>}
    </>
  );
}

/** Pages that are named, where many can't be read. */
const mostNamed = 6;

function wordsOfUnread(unread: Source["unread"]): string {
  const said = (why: Source["unread"][0]["why"], words: string) => {
    const pages = unread.filter((each) => each.why === why).map(({ part }) => part);
    if (pages.length === 0) return [];
    const named = pages.slice(0, mostNamed).join(", ");
    const more = pages.length > mostNamed ? ` and ${pages.length - mostNamed} more` : "";
    return [`${pages.length === 1 ? "page" : "pages"} ${named}${more}: ${words}`];
  };
  return [...said("no-text", "a picture without text"), ...said("broken", "broken")].join("; ");
}

/** A folder whose documents are taken as they come. */
function Folder({ slug, path }: { slug: string; path: string }) {
  const leaving = useChange("The folder", () => server.send(calls.leaveFolder, { slug, path }), [keys.sources(slug)]);
  return (
    <p className={styles.quiet}>
      Watches <b>{path}</b>{" "}
      <Action aria-label={`Watch ${path} no more`} onClick={() => leaving.run()}>
        no more
      </Action>
      {leaving.problem && <ProblemNote problem={leaving.problem} />}
    </p>
  );
}
