import { useInfiniteQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import { benchConversations, type LineMessage } from "@/contract/conversations";
import { type Pair, pairsOf } from "@/core/conversation/beside";
import { Action } from "../Action";
import { server } from "../api";
import { useCompared } from "../differences/use-compared";
import { many } from "../format";
import type { MarksByBlock } from "../markdown/differing";
import type { Marking } from "../markdown/marks";
import { Pieces } from "../markdown/Pieces";
import { ProblemNote } from "../ProblemNote";
import { keys } from "../queries";
import { Unfolding } from "../sheet/Unfolding";
import { madeBy } from "../wording/makers";
import styles from "./Beside.module.css";

/** Turns that are read at a time. */
const turnsAtOnce = 20;

/** A line that is read beside another. */
export interface OneSide {
  conversation: string;
  /** A message whose line it is; the one that is shown where none is named. */
  through?: string;
  /** What stands above its column. */
  title: ReactNode;
}

/**
 * Two lines side by side, from a turn on: what differs in them is marked, word by word, and what is the same stands once.
 * @param from the first turn
 */
export function Beside({
  left,
  right,
  from,
  onFold,
}: {
  left: OneSide;
  right: OneSide;
  from: number;
  onFold: () => void;
}) {
  const sides = [useLine(left, from), useLine(right, from)] as const;
  const [one, other] = sides;
  const pairs = useMemo(() => pairsOf(one.messages, other.messages), [one.messages, other.messages]);
  const failure = one.error ?? other.error;
  const replies = pairs.filter((pair) => (pair.left ?? pair.right)?.role === "app");
  const changed = replies.filter(({ is }) => is === "different").length;
  const more = sides.filter(({ hasMore }) => hasMore);
  return (
    <Unfolding label="Side by side" isRead={!one.isReading && !other.isReading} onFold={onFold}>
      {failure && <ProblemNote problem={failure.problem} />}
      <div className={styles.heads}>
        <div>{left.title}</div>
        <div>{right.title}</div>
      </div>
      <p className={styles.sum}>
        {one.isReading || other.isReading
          ? "reading both"
          : `${changed} of ${many(replies.length, "reply", "replies")} ${changed === 1 ? "differs" : "differ"}`}
      </p>
      {stretchesOf(pairs).map((stretch) =>
        stretch.isSame ? (
          <Same key={keyOf(stretch.pairs[0])} pairs={stretch.pairs} />
        ) : (
          stretch.pairs.map((pair) => <Row key={keyOf(pair)} pair={pair} />)
        ),
      )}
      {more.length > 0 && (
        <Action
          onClick={() => {
            for (const side of more) side.readMore();
          }}
        >
          further turns
        </Action>
      )}
    </Unfolding>
  );
}

function useLine({ conversation, through }: OneSide, from: number) {
  const query = useInfiniteQuery({
    queryKey: [...keys.line(conversation), "beside", through, from],
    queryFn: ({ pageParam }) =>
      server.send(benchConversations.turns, { id: conversation, through, from: pageParam, count: turnsAtOnce }),
    initialPageParam: from,
    getNextPageParam: (last, _pages, at) => (at + turnsAtOnce <= last.turns ? at + turnsAtOnce : undefined),
  });
  const messages = useMemo(() => query.data?.pages.flatMap((page) => page.messages) ?? [], [query.data]);
  return {
    messages,
    error: query.error,
    isReading: query.isPending,
    hasMore: query.hasNextPage,
    readMore: () => void query.fetchNextPage(),
  };
}

interface SameOrNot {
  isSame: boolean;
  pairs: Pair<LineMessage>[];
}

/** Pairs in stretches, by whether both sides say the same. */
function stretchesOf(pairs: Pair<LineMessage>[]): SameOrNot[] {
  const stretches: SameOrNot[] = [];
  for (const pair of pairs) {
    const isSame = pair.is !== "different";
    const last = stretches.at(-1);
    if (last?.isSame === isSame) last.pairs.push(pair);
    else stretches.push({ isSame, pairs: [pair] });
  }
  return stretches;
}

function keyOf(pair: Pair<LineMessage> | undefined): string {
  return `${pair?.left?.id} ${pair?.right?.id}`;
}

/** What is the same on both sides: the visitor's words once, replies folded. */
function Same({ pairs }: { pairs: Pair<LineMessage>[] }) {
  return pairs.map((pair) => <SameMessage key={keyOf(pair)} message={(pair.left ?? pair.right) as LineMessage} />);
}

function SameMessage({ message }: { message: LineMessage }) {
  const [isOpen, setOpen] = useState(message.role === "visitor");
  return (
    <details className={styles.same} open={isOpen} onToggle={({ currentTarget }) => setOpen(currentTarget.open)}>
      <summary>
        <Who message={message} /> {message.role === "visitor" ? "" : "the same on both sides"}
      </summary>
      {isOpen && (
        <div className={styles.text}>
          <Pieces pieces={message.pieces} by={message.role} />
        </div>
      )}
    </details>
  );
}

/** What differs, with its words marked: what only the one side has, and what only the other. */
function Row({ pair: { left, right } }: { pair: Pair<LineMessage> }) {
  const question = useMemo(
    () => ({
      kind: "shown" as const,
      before: textsOf(left),
      after: textsOf(right),
      isMarkdown: (left ?? right)?.role === "app",
    }),
    [left, right],
  );
  const found = useCompared(question);
  const marks = left && right && found?.kind === "marks" ? found : undefined;
  return (
    <div className={styles.row}>
      <Side message={left} marks={marks?.before} />
      <Side message={right} marks={marks?.after} />
    </div>
  );
}

function textsOf(message: LineMessage | undefined): string[] {
  return message?.pieces.flatMap((piece) => (piece.kind === "text" ? [piece.text] : [])) ?? [];
}

function Side({
  message,
  marks,
}: {
  message: LineMessage | undefined;
  /** By text and block. */
  marks?: readonly MarksByBlock[];
}) {
  const markings = useMemo(
    () =>
      marks?.map(
        (ofText): Marking =>
          (_words, block) =>
            ofText[block] ?? [],
      ),
    [marks],
  );
  if (!message) return <div className={styles.nothing}>nothing here</div>;
  return (
    <div>
      <Who message={message} />
      <div className={styles.text}>
        <Pieces pieces={message.pieces} by={message.role} markingOf={(text) => markings?.[text]} />
      </div>
    </div>
  );
}

function Who({ message }: { message: LineMessage }) {
  if (message.role === "visitor") return <b className={styles.visitor}>{message.turn} Visitor</b>;
  return (
    <small className={styles.who}>
      {madeBy(message.facts)}
      {message.state === "complete" ? "" : ` · ${message.state}`}
    </small>
  );
}
