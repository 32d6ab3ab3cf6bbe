import { useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import dynamic from "next/dynamic";
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";
import { benchConversations, type LineMessage } from "@/contract/conversations";
import { placesIn, termsOf } from "@/core/search/terms";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { Beside } from "../shared/beside/Beside";
import type { DocumentPlace } from "../shared/documents/DocumentSheet";
import { many } from "../shared/format";
import { useLayer } from "../shared/keys/use-layer";
import type { Marking } from "../shared/markdown/marks";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, useApp } from "../shared/queries";
import { SheetRow } from "../shared/sheet/SheetRow";
import { intoSight } from "../shared/sheet/Unfolding";
import { liveReplies } from "../shared/use-live-reply";
import styles from "./Reading.module.css";
import { ReadingFooter } from "./ReadingFooter";
import { type OtherOne, ReadRow, type ReadRowProps } from "./ReadRow";
import { type Item, itemsOf, keyOf } from "./read-items";

const DocumentSheet = dynamic(() => import("../shared/documents/DocumentSheet"), { ssr: false });

/** Turns that are read at once. */
const turnsAtOnce = 20;
/** Pixels of a turn before it was measured. */
const usualTurn = 96;

/**
 * A stored conversation, read in place from its end, or by the turns in which words are said. Going between takes
 * and lines changes what is read here, and nothing that is stored.
 */
export default function Reading({
  slug,
  conversation,
  words,
  onDelete,
  onClose,
}: {
  slug: string;
  conversation: string;
  words: string | undefined;
  onDelete: () => void;
  onClose: () => void;
}) {
  const app = useApp(slug);
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  const [through, setThrough] = useState<string>();
  const [beside, setBeside] = useState<OtherOne>();
  const [opened, setDocument] = useState<DocumentPlace>();
  const [unfolded, setUnfolded] = useState<ReadonlySet<number>>(new Set());
  const client = useQueryClient();
  useEffect(() => {
    const readAgain = (changed: string) =>
      changed === conversation && void client.invalidateQueries({ queryKey: keys.line(conversation) });
    const leave = liveReplies.onChange(readAgain);
    const leaveTurns = liveReplies.onTurn((heard) => readAgain(heard.conversation));
    return () => {
      leave();
      leaveTurns();
    };
  }, [client, conversation]);
  const head = useQuery(stretchQuery(conversation, through, 1));
  const places = useQuery({
    queryKey: [...keys.line(conversation), "places", through, words],
    queryFn: () => server.send(benchConversations.find, { id: conversation, through, words: words ?? "" }),
    enabled: words !== undefined,
  });
  const turns = head.data?.turns ?? 0;
  const found = words === undefined ? undefined : places.data?.turns;
  const items = useMemo(() => itemsOf(turns, found, unfolded), [turns, found, unfolded]);
  const problem = head.error?.problem ?? places.error?.problem;
  const isRead = head.isSuccess;
  useEffect(() => {
    if (isRead && root.current) intoSight(root.current);
  }, [isRead]);
  return (
    <section className={styles.reading} aria-label="The conversation" aria-busy={head.isPending} ref={root}>
      {problem && <ProblemNote problem={problem} />}
      {head.data && (words === undefined || found) && (
        <Turns
          key={`${through} ${words}`}
          app={app.data?.name ?? slug}
          conversation={conversation}
          through={through}
          items={items}
          startsAtEnd={words === undefined}
          words={words}
          beside={beside}
          onUnfold={(from) => setUnfolded(new Set([...unfolded, from]))}
          onRead={setThrough}
          onBeside={setBeside}
          onDocument={setDocument}
        />
      )}
      {opened && (
        <DocumentSheet place={opened} draft={app.data?.draftHash ?? ""} onClose={() => setDocument(undefined)} />
      )}
      {beside && (
        <Beside
          left={{ conversation, through: beside.left, title: "the one before" }}
          right={{ conversation, through: beside.right, title: "the one that is read" }}
          from={beside.turn}
          onFold={() => setBeside(undefined)}
        />
      )}
      {head.data && <ReadingFooter {...{ slug, conversation, through, onDelete }} about={head.data} />}
    </section>
  );
}

/** Reads the turns of a line of which one is the first of so many. */
function stretchQuery(conversation: string, through: string | undefined, turn: number) {
  const from = Math.floor((turn - 1) / turnsAtOnce) * turnsAtOnce + 1;
  return {
    queryKey: [...keys.line(conversation), "turns", through, from],
    queryFn: () => server.send(benchConversations.turns, { id: conversation, through, from, count: turnsAtOnce }),
    gcTime: 30_000,
  };
}

interface TurnsProps {
  /** The name of the app. */
  app: string;
  conversation: string;
  through: string | undefined;
  items: Item[];
  startsAtEnd: boolean;
  words: string | undefined;
  /** What stands side by side. */
  beside: OtherOne | undefined;
  onUnfold: (from: number) => void;
  onRead: (through: string) => void;
  onBeside: (beside: OtherOne | undefined) => void;
  onDocument: (place: DocumentPlace) => void;
}

/** The turns that are on the screen, read as one comes to them. */
function Turns({
  app,
  conversation,
  through,
  items,
  startsAtEnd,
  words,
  beside,
  onUnfold,
  onRead,
  onBeside,
  onDocument,
}: TurnsProps) {
  const frame = useRef<HTMLElement>(null);
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => frame.current,
    estimateSize: (at) => (items[at]?.kind === "fold" ? 40 : usualTurn),
    overscan: 4,
    getItemKey: (at) => keyOf(items[at]),
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: only as it is opened; after that the reader is left where one is
  useEffect(() => {
    if (startsAtEnd) virtual.scrollToIndex(items.length - 1, { align: "end" });
  }, []);
  // the browser would stop where the end was before its turns were measured
  const toEither = (event: KeyboardEvent) => {
    if (event.target !== frame.current || (event.key !== "Home" && event.key !== "End")) return;
    event.preventDefault();
    const isEnd = event.key === "End";
    virtual.scrollToIndex(isEnd ? items.length - 1 : 0, { align: isEnd ? "end" : "start" });
  };
  const shown = virtual.getVirtualItems();
  const wanted = [
    ...new Set(
      shown.flatMap(({ index }) => {
        const item = items[index];
        return item?.kind === "turn" ? [Math.floor((item.turn - 1) / turnsAtOnce) * turnsAtOnce + 1] : [];
      }),
    ),
  ];
  const read = useQueries({ queries: wanted.map((from) => stretchQuery(conversation, through, from)) });
  const byTurn = new Map<number, LineMessage[]>();
  for (const { data } of read)
    for (const message of data?.messages ?? [])
      byTurn.set(message.turn, [...(byTurn.get(message.turn) ?? []), message]);
  const marking = useMemo(() => markingOf(words), [words]);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key
    <section className={styles.frame} ref={frame} tabIndex={0} aria-label="Its turns" onKeyDown={toEither}>
      <div style={{ height: virtual.getTotalSize(), position: "relative" }}>
        {shown.map(({ index, key, start }) => {
          const item = items[index];
          if (!item) return null;
          return (
            <div
              key={key}
              ref={virtual.measureElement}
              data-index={index}
              className={styles.item}
              style={{ transform: `translateY(${start}px)` }}
            >
              {item.kind === "fold" ? (
                <SheetRow
                  tone="prompt"
                  turn={item.from === item.to ? String(item.from) : `${item.from}–${item.to}`}
                  label={`Turns ${item.from} to ${item.to}, folded`}
                >
                  <span className={styles.quiet}>
                    {many(item.to - item.from + 1, "turn")} without the words{" "}
                    <Action onClick={() => onUnfold(item.from)}>show</Action>
                  </span>
                </SheetRow>
              ) : (
                <Turn messages={byTurn.get(item.turn)} {...{ app, marking, beside, onRead, onBeside, onDocument }} />
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}

/** The messages of a turn; as high as a turn usually is until they were read. */
function Turn({ messages, ...rest }: { messages: LineMessage[] | undefined } & Omit<ReadRowProps, "message">) {
  if (!messages) return <div style={{ height: usualTurn }} aria-busy="true" />;
  return messages.map((message) => <ReadRow key={message.id} message={message} {...rest} />);
}

function markingOf(searched: string | undefined): Marking | undefined {
  const terms = searched === undefined ? undefined : termsOf(searched);
  return terms && ((words) => placesIn(words, terms).map((place) => ({ ...place, as: "mark" })));
}
