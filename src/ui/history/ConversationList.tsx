import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, type RefObject, useEffect, useRef, useState } from "react";
import { ConversationRow } from "./ConversationRow";
import styles from "./HistoryView.module.css";
import type { PackedConversation } from "./strip-turns";
import type { Deletion } from "./use-deletion";

/** Pixels of a row before it was measured. */
const usualRow = 58;
/** Rows from either end of what was read at which more is. */
const ahead = 8;

interface Props {
  slug: string;
  words: string | undefined;
  /** Whether they were deleted, and can be brought back. */
  areDeleted: boolean;
  /** A stretch of the list. */
  conversations: PackedConversation[];
  /** How many stand above it. */
  above: number;
  /** How many there are in all; undefined where that is not known yet. */
  found: number | undefined;
  longest: number;
  chosen: ReadonlySet<string>;
  setChosen: (chosen: ReadonlySet<string>) => void;
  deletion: Deletion;
  /** Told of the first row on the screen. */
  onNearStart: (first: number) => void;
  onNearEnd: () => void;
}

/** The rows of the list, of which those are drawn that are on the screen. */
export function ConversationList(props: Props) {
  const { slug, words, areDeleted, conversations, above, found, longest, chosen, setChosen, deletion } = props;
  const { onNearStart, onNearEnd } = props;
  const list = useRef<HTMLOListElement>(null);
  const [opened, setOpened] = useState<string>();
  const [active, setActive] = useState(0);
  /** The row that gets the focus once it is drawn. */
  const wanted = useRef<number>(undefined);
  const ids = useIds(conversations, above);
  const end = above + conversations.length;
  const virtual = useWindowVirtualizer({
    count: end,
    estimateSize: () => usualRow,
    overscan: 6,
    scrollMargin: list.current?.offsetTop ?? 0,
    getItemKey: (at) => conversations[at - above]?.id ?? ids.current[at] ?? at,
  });
  const items = virtual.getVirtualItems();
  const first = items[0]?.index ?? 0;
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (first < above + ahead) onNearStart(first);
  }, [first, above, onNearStart]);
  useEffect(() => {
    if (last >= end - ahead) onNearEnd();
  }, [last, end, onNearEnd]);
  useEffect(() => {
    if (wanted.current === undefined) return;
    list.current?.querySelector<HTMLElement>(`[data-at="${wanted.current}"] [data-open]`)?.focus();
  });

  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  const move = (to: number) => {
    const at = Math.max(0, Math.min(end - 1, to));
    wanted.current = at;
    setActive(at);
    virtual.scrollToIndex(at);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const isRow = event.target instanceof HTMLElement && event.target.dataset.open !== undefined;
    if (!isRow || event.altKey || event.ctrlKey || event.metaKey) return;
    const steps = { ArrowDown: active + 1, ArrowUp: active - 1, Home: 0, End: end - 1 }[event.key];
    const conversation = conversations[active - above];
    if (steps === undefined && event.key !== " ") return;
    event.preventDefault();
    if (steps !== undefined) move(steps);
    else if (conversation) toggle(conversation.id);
  };
  return (
    <ol
      className={styles.list}
      ref={list}
      data-focus="own"
      style={{ height: virtual.getTotalSize() }}
      onKeyDown={onKeyDown}
    >
      {items.map(({ index, key, start }) => {
        const conversation = conversations[index - above];
        if (!conversation) return null;
        return (
          <li
            key={key}
            ref={virtual.measureElement}
            data-index={index}
            data-at={index}
            className={styles.row}
            data-opened={opened === conversation.id}
            aria-setsize={found ?? -1}
            aria-posinset={index + 1}
            style={{ transform: `translateY(${start - virtual.options.scrollMargin}px)` }}
            onFocus={() => {
              wanted.current = undefined;
              setActive(index);
            }}
          >
            <ConversationRow
              slug={slug}
              words={words}
              conversation={conversation}
              longest={longest}
              isActive={index === active}
              isChosen={chosen.has(conversation.id)}
              isOpened={opened === conversation.id}
              onChoose={() => toggle(conversation.id)}
              onOpen={() => setOpened(opened === conversation.id ? undefined : conversation.id)}
              isDeleted={areDeleted}
              onRestore={() => deletion.restore([conversation.id])}
              onDelete={() => deletion.remove([conversation.id])}
            />
          </li>
        );
      })}
    </ol>
  );
}

/** The ids of all rows that were read, by their place: a row that is let go of keeps the height that it had. */
function useIds(conversations: readonly PackedConversation[], above: number): RefObject<string[]> {
  const ids = useRef<string[]>([]);
  useEffect(() => {
    for (const [at, { id }] of conversations.entries()) ids.current[above + at] = id;
  }, [conversations, above]);
  return ids;
}
