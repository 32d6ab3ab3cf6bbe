import { useInfiniteQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { App } from "@/contract/apps";
import { revisions, type ToldRevision } from "@/contract/revisions";
import { type Content, sameContent } from "@/core/revision/content";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { ContentChange } from "../shared/ContentChange";
import { many, moment, price } from "../shared/format";
import { TextValue } from "../shared/inline/TextValue";
import { useLayer } from "../shared/keys/use-layer";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { SheetRow } from "../shared/sheet/SheetRow";
import sheet from "../shared/sheet/sheet.module.css";
import { useChange } from "../shared/use-change";
import { wordsOfState } from "../shared/wording/endings";
import styles from "./RevisionsSheet.module.css";

/** The revisions of an app, newest first: what changed with each, and what came of it. */
export default function RevisionsSheet({
  app,
  draft,
  nameOf,
  onPutLive,
  onGoBack,
  onClose,
}: {
  app: App;
  draft: Content;
  /** The name of a provider by its slug. */
  nameOf: (provider: string) => string;
  onPutLive: (content: Content) => void;
  /** Makes the draft what a revision was. */
  onGoBack: (content: Content) => void;
  onClose: () => void;
}) {
  const { slug } = app;
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  const [now] = useState(() => Date.now());
  const query = useInfiniteQuery({
    queryKey: [...keys.app(slug), "revisions", app.latest.number],
    queryFn: ({ pageParam }) => server.send(revisions.list, { slug, before: pageParam }),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (page) => page.before ?? undefined,
    refetchOnMount: "always",
  });
  const { run, problem } = useChange(
    "The note",
    ({ number, note }: { number: number; note: string }) =>
      server.send(revisions.note, { slug, number: String(number), body: { note } }),
    [[...keys.app(slug), "revisions"]],
  );
  const pages = query.data?.pages ?? [];
  const all = pages.flatMap((page) => page.revisions);
  return (
    <section className={styles.sheet} aria-label="Revisions" ref={root}>
      <header className={styles.head}>
        <h2>Revisions</h2>
        <Action onClick={onClose}>back to the conversation</Action>
      </header>
      {problem && <ProblemNote problem={problem} />}
      {query.error && <ProblemNote problem={query.error.problem} />}
      {all.map((revision, at) => (
        <Revision
          key={revision.number}
          {...{ revision, nameOf, now }}
          before={all[at + 1]?.content ?? pages.at(-1)?.next ?? null}
          isLive={revision.number === app.liveRevision}
          isDraft={sameContent(revision.content, draft)}
          onNote={(note) => run({ number: revision.number, note })}
          onPutLive={() => onPutLive(revision.content)}
          onGoBack={() => onGoBack(revision.content)}
        />
      ))}
      {query.hasNextPage && <Action onClick={() => void query.fetchNextPage()}>show earlier ones</Action>}
    </section>
  );
}

function Revision({
  revision: { number, at, note, content, replies, price: cost },
  before,
  nameOf,
  now,
  isLive,
  isDraft,
  onNote,
  onPutLive,
  onGoBack,
}: {
  revision: ToldRevision;
  /** The content of the revision before it; null for the first. */
  before: Content | null;
  nameOf: (provider: string) => string;
  now: number;
  isLive: boolean;
  isDraft: boolean;
  onNote: (note: string) => void;
  onPutLive: () => void;
  onGoBack: () => void;
}) {
  const ended = Object.entries(replies) as [keyof typeof replies, number][];
  const made = ended.reduce((sum, [, count]) => sum + count, 0);
  const others = ended.filter(([state]) => state !== "complete");
  return (
    <SheetRow
      tone="prompt"
      turn={String(number)}
      tokens={moment(at, now)}
      of=""
      label={`Revision ${number}`}
      side={
        <>
          <div className={styles.live}>
            {isLive && <b>live</b>}
            {isLive && isDraft && " · "}
            {isDraft && "the draft is this one"}
          </div>
          <div>{made > 0 ? many(made, "reply", "replies") : cost ? "its replies were deleted" : "no replies"}</div>
          {others.length > 0 && (
            <div>{others.map(([state, count]) => `${count} ${wordsOfState(state)}`).join(", ")}</div>
          )}
          {cost && <div>{price(cost.amount, cost.currency)}</div>}
          <div className={sheet.links}>
            {!isLive && <Action onClick={onPutLive}>make live</Action>}
            {!isDraft && <Action onClick={onGoBack}>go back to it</Action>}
          </div>
        </>
      }
    >
      <TextValue
        label={`Note on revision ${number}`}
        placeholder="a note"
        maxLength={2_000}
        value={note}
        onChange={onNote}
      />
      {before ? <ContentChange before={before} after={content} nameOf={nameOf} /> : <p>The first one.</p>}
    </SheetRow>
  );
}
