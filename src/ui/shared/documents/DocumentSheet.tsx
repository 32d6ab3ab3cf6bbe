import { useInfiniteQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { blocksAtOnce, type DocumentText, type FaultAnswer, sources } from "@/contract/sources";
import type { Block } from "@/core/sources/document";
import { Action } from "../Action";
import { server } from "../api";
import { many } from "../format";
import { useLayer } from "../keys/use-layer";
import { ProblemNote } from "../ProblemNote";
import { keys } from "../queries";
import { useChange } from "../use-change";
import { wordsOfFault } from "../wording/faults";
import styles from "./DocumentSheet.module.css";

/** A document, and a stretch of its text that is shown in it. */
export interface DocumentPlace {
  source: string;
  title: string;
  version?: string;
  from?: number;
  to?: number;
  /** The reply that should have answered from something in it. */
  reply?: string;
}

/** A document as it was read, with its cuts; opened at a place of it. */
export default function DocumentSheet({
  place,
  draft,
  onClose,
}: {
  place: DocumentPlace;
  draft: string;
  onClose: () => void;
}) {
  const { source, title, version, from, to, reply } = place;
  const pointing = useChange("What went wrong", (at: number) =>
    server.send(sources.fault, { id: reply ?? "", body: { source, at } }),
  );
  const [fault, setFault] = useState<{ at: number; fault: FaultAnswer }>();
  const point = async (at: number) => {
    const pointed = await pointing.done(at);
    if (pointed.ok) setFault({ at, fault: pointed.value });
  };
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  const query = useInfiniteQuery({
    queryKey: [...keys.document(source), version, from, draft],
    queryFn: ({ pageParam }) =>
      server.send(sources.text, {
        id: source,
        version,
        ...(pageParam === undefined ? { around: from } : { first: pageParam }),
      }),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: ({ first, blocks, count }) => (first + blocks.length < count ? first + blocks.length : undefined),
    getPreviousPageParam: ({ first }) => (first > 0 ? Math.max(first - blocksAtOnce, 0) : undefined),
  });
  const pages = query.data?.pages ?? [];
  const isThere = pages.length > 0;
  useEffect(() => {
    if (!isThere) return;
    const found = root.current?.querySelector("mark");
    (found ?? root.current)?.scrollIntoView({ block: found ? "center" : "start" });
    root.current?.focus();
  }, [isThere]);
  const cuts = new Set(pages.flatMap(({ passages }) => passages.map(({ where }) => where.from)));
  const total = pages[0]?.count ?? 0;
  return (
    <section className={styles.sheet} aria-label={title} ref={root} tabIndex={-1}>
      <header className={styles.head}>
        <h2>{title}</h2>
        {isThere && (
          <span>
            {reply
              ? "Point at what it should have answered from."
              : `${many(total, "part")}; a line in the margin is where a passage begins`}
          </span>
        )}
        <Action onClick={onClose}>back to the conversation</Action>
      </header>
      {pointing.problem && <ProblemNote problem={pointing.problem} />}
      {query.error && <ProblemNote problem={query.error.problem} />}
      {query.hasPreviousPage && <Action onClick={() => void query.fetchPreviousPage()}>show what stands above</Action>}
      <div className={styles.text}>
        {unique(pages).map(({ block, at }) => (
          <BlockOf
            key={at}
            {...{ block, at }}
            cuts={cuts}
            marked={from === undefined ? undefined : { from, to: to ?? from }}
            onPoint={reply && block.kind !== "heading" ? () => void point(at) : undefined}
            told={fault?.at === at ? wordsOfFault(fault.fault) : undefined}
          />
        ))}
      </div>
      {query.hasNextPage && <Action onClick={() => void query.fetchNextPage()}>show more of it</Action>}
    </section>
  );
}

/** The blocks of all pages, each once, in order. */
function unique(pages: readonly DocumentText[]): DocumentText["blocks"] {
  const byPlace = new Map(pages.flatMap(({ blocks }) => blocks.map((each) => [each.at, each] as const)));
  return [...byPlace.values()].sort((a, b) => a.at - b.at);
}

function BlockOf({
  block,
  at,
  cuts,
  marked,
  onPoint,
  told,
}: {
  block: Block;
  at: number;
  cuts: ReadonlySet<number>;
  marked: { from: number; to: number } | undefined;
  onPoint: (() => void) | undefined;
  /** What went wrong with it. */
  told: string | undefined;
}) {
  const begins = [...cuts].some((cut) => cut >= at && cut < at + block.text.length);
  const words = withMark(block.text, at, marked);
  const tag = block.kind === "row" ? `row ${block.row}` : block.page !== undefined ? `page ${block.page}` : undefined;
  return (
    <div className={styles.block} data-kind={block.kind} data-cut={begins}>
      <span className={styles.tag}>{tag}</span>
      {block.kind === "heading" ? (
        <h3 data-level={block.level}>{words}</h3>
      ) : (
        <p>
          {words}{" "}
          {onPoint && (
            <Action className={styles.point} onClick={onPoint}>
              from here
            </Action>
          )}
          {told && (
            <span className={styles.told} role="status">
              {told}
            </span>
          )}
        </p>
      )}
    </div>
  );
}

/** A text in which a stretch of its document is marked. */
function withMark(text: string, at: number, marked: { from: number; to: number } | undefined): ReactNode {
  if (!marked || marked.to <= at || marked.from >= at + text.length) return text;
  const [from, to] = [Math.max(marked.from - at, 0), Math.min(marked.to - at, text.length)];
  return (
    <>
      {text.slice(0, from)}
      <mark>{text.slice(from, to)}</mark>
      {text.slice(to)}
    </>
  );
}
