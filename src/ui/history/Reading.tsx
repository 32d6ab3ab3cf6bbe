import { useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from "react";
import { branches } from "@/contract/branches";
import { addressFor } from "@/contract/call";
import { benchConversations, type LineMessage, mostCounted, type Stretch } from "@/contract/conversations";
import { exports } from "@/contract/exports";
import { benchMarks } from "@/contract/marks";
import type { Rating } from "@/core/conversation/rating";
import { placesIn, termsOf } from "@/core/search/terms";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { Beside } from "../shared/beside/Beside";
import { many, turnsUpTo } from "../shared/format";
import { LinesValue } from "../shared/inline/LinesValue";
import { TextValue } from "../shared/inline/TextValue";
import { SayAgainSentence } from "../shared/jobs/SayAgainSentence";
import { useLayer } from "../shared/keys/use-layer";
import type { Marking } from "../shared/markdown/marks";
import { Pieces } from "../shared/markdown/Pieces";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, useApp } from "../shared/queries";
import { SheetRow, Who } from "../shared/sheet/SheetRow";
import { Siblings } from "../shared/sheet/Siblings";
import sheet from "../shared/sheet/sheet.module.css";
import { intoSight } from "../shared/sheet/Unfolding";
import { useChange } from "../shared/use-change";
import { liveReplies } from "../shared/use-live-reply";
import { wordsOfState } from "../shared/wording/endings";
import { madeBy } from "../shared/wording/makers";
import styles from "./Reading.module.css";

/** Turns that are read at once. */
const turnsAtOnce = 20;
/** Pixels of a turn before it was measured. */
const usualTurn = 96;

/** What is read: a turn, or a stretch of turns that is folded. */
type Item = { kind: "turn"; turn: number } | { kind: "fold"; from: number; to: number };

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
        />
      )}
      {beside && (
        <Beside
          left={{ conversation, through: beside.left, title: "the one before" }}
          right={{ conversation, through: beside.right, title: "the one that is read" }}
          from={beside.turn}
          onFold={() => setBeside(undefined)}
        />
      )}
      {head.data && <Footer {...{ slug, conversation, through, onDelete }} about={head.data} />}
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

/** All turns; or those that say something, with the others between them folded. */
function itemsOf(turns: number, found: number[] | undefined, unfolded: ReadonlySet<number>): Item[] {
  const items: Item[] = [];
  const each = (from: number, to: number) => {
    for (let turn = from; turn <= to; turn += 1) items.push({ kind: "turn", turn });
  };
  if (!found) {
    each(1, turns);
    return items;
  }
  let next = 1;
  for (const turn of [...found, turns + 1]) {
    if (turn > next && unfolded.has(next)) each(next, turn - 1);
    else if (turn > next) items.push({ kind: "fold", from: next, to: turn - 1 });
    if (turn <= turns) each(turn, turn);
    next = turn + 1;
  }
  return items;
}

/** Two messages in the same place of two lines. */
interface OtherOne {
  turn: number;
  left: string;
  right: string;
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
                <Turn messages={byTurn.get(item.turn)} {...{ app, marking, beside, onRead, onBeside }} />
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}

/** The messages of a turn; as high as a turn usually is until they were read. */
function Turn({ messages, ...rest }: { messages: LineMessage[] | undefined } & Omit<RowProps, "message">) {
  if (!messages) return <div style={{ height: usualTurn }} aria-busy="true" />;
  return messages.map((message) => <MessageRow key={message.id} message={message} {...rest} />);
}

function keyOf(item: Item | undefined): string {
  return item?.kind === "turn" ? `turn ${item.turn}` : `fold ${item?.from}`;
}

type RowProps = Pick<TurnsProps, "app" | "beside" | "onRead" | "onBeside"> & {
  message: LineMessage;
  /** Marks the words that were searched for. */
  marking: Marking | undefined;
};

function markingOf(searched: string | undefined): Marking | undefined {
  const terms = searched === undefined ? undefined : termsOf(searched);
  return terms && ((words) => placesIn(words, terms).map((place) => ({ ...place, as: "mark" })));
}

function MessageRow({ app, message, marking, beside, onRead, onBeside }: RowProps) {
  const { id, turn, role, siblings } = message;
  const what = role === "visitor" ? "line" : "take";
  const at = siblings.findIndex((each) => each.id === id);
  const other = siblings[at - 1] ?? siblings[at + 1];
  return (
    <SheetRow
      tone={role}
      turn={role === "visitor" ? String(turn) : undefined}
      label={`Turn ${turn}, ${role === "visitor" ? "visitor" : "reply"}`}
      side={
        <>
          {message.role === "app" && <ReplySide message={message} />}
          {siblings.length > 1 && other && (
            <Siblings
              what={what}
              of={siblings}
              shown={id}
              turn={turn}
              verb="Read "
              isBeside={beside?.right === id}
              onShow={onRead}
              onBeside={() => onBeside(beside?.right === id ? undefined : { turn, left: other.id, right: id })}
            />
          )}
        </>
      }
    >
      <div className={sheet.reply}>
        <Who>{role === "visitor" ? "Visitor" : app}</Who>
        <Pieces pieces={message.pieces} by={role} markingOf={() => marking} />
      </div>
      {role === "visitor" && siblings.length > 1 && (
        <span className={styles.parting}>
          {many(siblings.length, "line")} part here:{" "}
          {siblings
            .map((each, place) => `${each.name ? `“${each.name}”` : place + 1}, ${turnsUpTo(each.turns, mostCounted)}`)
            .join(" · ")}
        </span>
      )}
    </SheetRow>
  );
}

function ReplySide({ message }: { message: Extract<LineMessage, { role: "app" }> }) {
  const { id, state, ratings } = message;
  const rating = useChange("The mark", (next: Rating | null) =>
    server.send(benchMarks.rate, { id, body: { rating: next } }),
  );
  return (
    <>
      <div>{madeBy(message.facts)}</div>
      {state !== "complete" && <div className={styles.caution}>{wordsOfState(state)}</div>}
      <div className={styles.pressed}>
        {(["good", "bad"] as const).map((each, at) => (
          <span key={each}>
            {at > 0 && " · "}
            <Action
              aria-pressed={ratings.bench === each}
              onClick={() => rating.run(ratings.bench === each ? null : each)}
            >
              {each}
            </Action>
          </span>
        ))}
        {ratings.visitor && <span> · visitor: {ratings.visitor}</span>}
      </div>
    </>
  );
}

/** What is done with a conversation, and what is written on it. */
function Footer({
  slug,
  conversation,
  through,
  about: { title, opening, note, tags, turns },
  onDelete,
}: {
  slug: string;
  conversation: string;
  through: string | undefined;
  about: Stretch;
  onDelete: () => void;
}) {
  const router = useRouter();
  const [isAgain, setAgain] = useState(false);
  const writing = useChange(
    "Writing on it",
    (body: { title?: string | null; note?: string; tags?: string[] }) =>
      server.send(benchMarks.write, { id: conversation, body }),
    [keys.conversations(slug), keys.line(conversation)],
  );
  const going = useChange("Going on", async () => {
    if (through !== undefined) await server.send(branches.show, { id: through });
    router.push(`/apps/${slug}/build?conversation=${conversation}`);
  });
  const problem = writing.problem ?? going.problem;
  return (
    <div className={styles.footer}>
      {problem && <ProblemNote problem={problem} />}
      <div className={styles.actions}>
        <Button type="primary" onClick={() => going.run()}>
          Continue from here
        </Button>
        <span>
          called{" "}
          <TextValue
            label="Title"
            value={title ?? ""}
            placeholder={opening.slice(0, 40) || "nothing"}
            onChange={(next) => writing.run({ title: next.trim() === "" ? null : next.trim().slice(0, 160) })}
          />
          , tagged{" "}
          <TextValue
            label="Tags, with commas between"
            value={tags.join(", ")}
            placeholder="with nothing"
            onChange={(next) => writing.run({ tags: tagsIn(next) })}
          />
        </span>
        {!isAgain && <Button onClick={() => setAgain(true)}>Say it again on the draft</Button>}
        <a href={addressFor(exports.history, { slug, as: "jsonl", ids: conversation })} download>
          export
        </a>
        <Action onClick={onDelete}>delete</Action>
        <span className={styles.quiet}>{many(turns, "turn")}</span>
      </div>
      {isAgain && <SayAgainSentence {...{ conversation, through }} onClose={() => setAgain(false)} />}
      <div className={styles.note}>
        <LinesValue
          label="Note"
          placeholder="a note for whoever works on this"
          rows={[1, 6]}
          maxLength={20_000}
          value={note}
          onChange={(next) => writing.run({ note: next })}
        />
      </div>
    </div>
  );
}

function tagsIn(text: string): string[] {
  const tags = text.split(",").map((tag) => tag.trim().slice(0, 40));
  return [...new Set(tags.filter((tag) => tag !== ""))].slice(0, 20);
}
