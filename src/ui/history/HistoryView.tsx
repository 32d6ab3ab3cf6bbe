"use client";

import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import Link from "next/link";
import { useSearchParams } from "next/navigation";
import { type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { benchConversations } from "@/contract/conversations";
import { server } from "../shared/api";
import { count, many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { liveReplies } from "../shared/use-live-reply";
import { ChosenWords } from "./ChosenWords";
import { ConversationRow } from "./ConversationRow";
import { FilterSentence } from "./FilterSentence";
import { addressOf, askedFor, type FilterWords, filterIn, isOpen } from "./filter-words";
import styles from "./HistoryView.module.css";
import { ImportSheet } from "./ImportSheet";
import { type PackedConversation, packed, tokensOn } from "./strip-turns";
import { type Deletion, useDeletion } from "./use-deletion";

/** Pixels of a row before it was measured. */
const usualRow = 58;
/** Rows from the end of what was read at which more is. */
const ahead = 8;

/** The stored conversations of an app, filtered and searched, each as one strip of its turns; read in place. */
export function HistoryView({ slug }: { slug: string }) {
  const address = useSearchParams();
  const filter = useMemo(() => filterIn(address), [address]);
  const setFilter = useCallback((next: FilterWords) => {
    const written = addressOf(next);
    window.history.replaceState(null, "", written === "" ? window.location.pathname : `?${written}`);
  }, []);
  const words = useRef<{ focus: () => void }>(null);
  useHotkeys("/", () => words.current?.focus(), { preventDefault: true, useKey: true });
  const history = useHistory(slug, filter);
  const deletion = useDeletion(slug);
  const [isImporting, setImporting] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const shown = useMemo(
    () => history.conversations.filter(({ id }) => !deletion.isGone(id)),
    [history.conversations, deletion],
  );
  return (
    <main className={styles.view} aria-busy={history.isReading}>
      <h1 className="unseen">History</h1>
      <FilterSentence slug={slug} filter={filter} onChange={setFilter} words={words} />
      <Legend found={history.found} hasWords={filter.words !== undefined} />
      <ChosenWords
        slug={slug}
        filter={filter}
        {...{ chosen, setChosen, deletion }}
        found={history.found?.conversations ?? 0}
        onImport={() => setImporting(!isImporting)}
      />
      {isImporting && <ImportSheet slug={slug} onClose={() => setImporting(false)} />}
      {history.problem && <ProblemNote problem={history.problem} />}
      {history.isRead && shown.length === 0 && (
        <p className={styles.empty}>
          {isOpen(filter) ? (
            <>
              No conversation yet. <Link href={`/apps/${slug}/build?conversation=new`}>Begin one</Link>
            </>
          ) : (
            <>
              Nothing is found.{" "}
              <button type="button" className="link" onClick={() => setFilter({})}>
                show all
              </button>
            </>
          )}
        </p>
      )}
      {shown.length > 0 && (
        <List
          slug={slug}
          words={filter.words}
          conversations={shown}
          longest={history.longest}
          onNearEnd={history.readMore}
          {...{ chosen, setChosen, deletion }}
        />
      )}
    </main>
  );
}

/** The conversations that a filter finds, as far as they were read. */
function useHistory(slug: string, filter: FilterWords) {
  const client = useQueryClient();
  const query = useInfiniteQuery({
    queryKey: [...keys.conversations(slug), "found", filter],
    queryFn: async ({ pageParam, signal }) => {
      const input = { slug, before: pageParam, ...askedFor(filter, Date.now()) };
      const page = await server.send(benchConversations.list, input, signal);
      return { ...page, conversations: page.conversations.map(packed) };
    },
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (page) => page.before ?? undefined,
    placeholderData: (last) => last,
  });
  useEffect(() => {
    const readAgain = () => void client.invalidateQueries({ queryKey: keys.conversations(slug) });
    const leave = liveReplies.onTurn(readAgain);
    const leaveChanges = liveReplies.onChange(readAgain);
    const leaveJobs = liveReplies.onJobs(readAgain);
    return () => {
      leave();
      leaveChanges();
      leaveJobs();
    };
  }, [client, slug]);
  const { data, hasNextPage, isFetchingNextPage, fetchNextPage } = query;
  const conversations = useMemo(() => data?.pages.flatMap((page) => page.conversations) ?? [], [data]);
  return {
    conversations,
    found: data?.pages[0]?.found ?? null,
    // by the first page, so that strips keep their length while one scrolls
    longest: Math.max(1, ...(data?.pages[0]?.conversations ?? []).map(({ strip }) => tokensOn(strip))),
    problem: query.error?.problem,
    isReading: query.isFetching,
    isRead: query.isSuccess,
    readMore: useCallback(() => {
      if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
    }, [hasNextPage, isFetchingNextPage, fetchNextPage]),
  };
}

function Legend({
  found,
  hasWords,
}: {
  found: { conversations: number; places: number; of: number } | null;
  hasWords: boolean;
}) {
  return (
    <p className={styles.legend}>
      <span role="status">
        {found && (
          <>
            {found.conversations === found.of
              ? many(found.of, "conversation")
              : `${count(found.conversations)} of ${many(found.of, "conversation")}`}
            {hasWords && `, ${many(found.places, "place")}`}.{" "}
          </>
        )}
      </span>
      A strip is a conversation: its length is in tokens, <i data-part="visitor" /> what the visitor said,{" "}
      <i data-part="reply" /> what the app answered{hasWords && ", yellow a place with the words"}. <b>✕</b> failed,{" "}
      <b>◣</b> cut or stopped, <b>⌞</b> where lines part. Space chooses, Enter opens, / finds.
    </p>
  );
}

interface ListProps {
  slug: string;
  words: string | undefined;
  conversations: PackedConversation[];
  longest: number;
  chosen: ReadonlySet<string>;
  setChosen: (chosen: ReadonlySet<string>) => void;
  deletion: Deletion;
  onNearEnd: () => void;
}

/** The rows of the list, of which those are drawn that are on the screen. */
function List({ slug, words, conversations, longest, chosen, setChosen, deletion, onNearEnd }: ListProps) {
  const list = useRef<HTMLOListElement>(null);
  const [opened, setOpened] = useState<string>();
  const [active, setActive] = useState(0);
  const virtual = useWindowVirtualizer({
    count: conversations.length,
    estimateSize: () => usualRow,
    overscan: 6,
    scrollMargin: list.current?.offsetTop ?? 0,
    getItemKey: (at) => conversations[at]?.id ?? at,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last >= conversations.length - ahead) onNearEnd();
  }, [last, conversations.length, onNearEnd]);

  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  const move = (to: number) => {
    const at = Math.max(0, Math.min(conversations.length - 1, to));
    setActive(at);
    virtual.scrollToIndex(at);
    requestAnimationFrame(() => list.current?.querySelector<HTMLElement>(`[data-at="${at}"] [data-open]`)?.focus());
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const isRow = event.target instanceof HTMLElement && event.target.dataset.open !== undefined;
    if (!isRow || event.altKey || event.ctrlKey || event.metaKey) return;
    const steps = { ArrowDown: active + 1, ArrowUp: active - 1, Home: 0, End: conversations.length - 1 }[event.key];
    const conversation = conversations[active];
    if (steps === undefined && event.key !== " ") return;
    event.preventDefault();
    if (steps !== undefined) move(steps);
    else if (conversation) toggle(conversation.id);
  };
  return (
    <ol className={styles.list} ref={list} style={{ height: virtual.getTotalSize() }} onKeyDown={onKeyDown}>
      {items.map(({ index, key, start }) => {
        const conversation = conversations[index];
        if (!conversation) return null;
        return (
          <li
            key={key}
            ref={virtual.measureElement}
            data-index={index}
            data-at={index}
            className={styles.row}
            data-opened={opened === conversation.id}
            aria-setsize={conversations.length}
            aria-posinset={index + 1}
            style={{ transform: `translateY(${start - virtual.options.scrollMargin}px)` }}
            onFocus={() => setActive(index)}
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
              onDelete={() => deletion.remove([conversation.id])}
            />
          </li>
        );
      })}
    </ol>
  );
}
