import { type InfiniteData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo } from "react";
import { benchConversations } from "@/contract/conversations";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { liveReplies } from "../shared/use-live-reply";
import { askedFor, type HistoryFilter } from "./filter";
import { type PackedConversation, packed } from "./strip-turns";
import { afterPage, longestOf, type Page, pageAbove, placeOf, type Trail, top, trailTo } from "./trail";

/** Pages that are kept, those about what is on the screen: so many are read again when something changes. */
const mostPages = 10;
/** Rows that may be missing above the screen until the pages between are not read any more, but those about the screen. */
const farRows = 40;
const pagesAround = 3;
/** Milliseconds between two readings again: replies of many visitors end in a second. */
const restMs = 1_000;

/** The conversations that a filter finds: a stretch of the list, as it was read while one scrolled. */
export function useHistory(slug: string, filter: HistoryFilter) {
  const client = useQueryClient();
  useReadingAgain(slug);
  const counted = useQuery({
    queryKey: [...keys.conversations(slug), "counted", filter],
    queryFn: ({ signal }) => server.send(benchConversations.count, { slug, ...askedFor(filter, Date.now()) }, signal),
    placeholderData: (last) => last,
  });
  const queryKey = [...keys.conversations(slug), "found", filter];
  const read = async (trail: Trail, signal?: AbortSignal) => {
    const input = { slug, before: placeOf(trail).before, ...askedFor(filter, Date.now()) };
    const page = await server.send(benchConversations.list, input, signal);
    return { ...page, conversations: page.conversations.map(packed) };
  };
  const query = useInfiniteQuery({
    queryKey,
    queryFn: ({ pageParam, signal }) => read(pageParam, signal),
    initialPageParam: top,
    getNextPageParam: (page: Page, _pages, trail: Trail) => afterPage(page, trail),
    getPreviousPageParam: (_page, _pages, trail) => pageAbove(trail),
    maxPages: mostPages,
    placeholderData: (last) => last,
  });
  const { data, isFetchingNextPage, isFetchingPreviousPage, hasNextPage, hasPreviousPage } = query;
  const { fetchNextPage, fetchPreviousPage } = query;
  const trail = (data?.pageParams[0] as Trail | undefined) ?? top;
  const { above, longest } = placeOf(trail);
  const jump = useChange("Reading there", async (at: number) => {
    const pages: Page[] = [];
    const pageParams: Trail[] = [];
    for (let next: Trail | undefined = trailTo(trail, at); next && pages.length < pagesAround; ) {
      const page = await read(next);
      pages.push(page);
      pageParams.push(next);
      next = afterPage(page, next);
    }
    await client.cancelQueries({ queryKey });
    client.setQueryData<InfiniteData<Page, Trail>>(queryKey, { pages, pageParams });
  });
  // what failed is not tried again by itself, over and over
  const canRead = !isFetchingNextPage && !isFetchingPreviousPage && !query.isError && !jump.isRunning && !jump.problem;
  const conversations = useMemo(() => onceEach(data?.pages.flatMap((page) => page.conversations) ?? []), [data]);
  const { run: jumpTo, putAside } = jump;
  return {
    conversations,
    /** How many stand above these in the list. */
    above,
    found: counted.data,
    longest: longest ?? longestOf(data?.pages[0]?.conversations ?? []),
    problem: query.error?.problem ?? counted.error?.problem ?? jump.problem,
    isReading: query.isFetching || jump.isRunning,
    isRead: query.isSuccess,
    /** Reads what stands above, as far as a row that is on the screen. */
    readEarlier: useCallback(
      (at: number) => {
        if (!hasPreviousPage || !canRead) return;
        if (above - at > farRows) jumpTo(at);
        else void fetchPreviousPage();
      },
      [hasPreviousPage, canRead, above, jumpTo, fetchPreviousPage],
    ),
    readMore: useCallback(() => {
      if (hasNextPage && canRead) void fetchNextPage();
    }, [hasNextPage, canRead, fetchNextPage]),
    readAgain: () => {
      putAside();
      void client.invalidateQueries({ queryKey: keys.conversations(slug) });
    },
  };
}

/** Has the list read again when something was said, changed or imported: at once, but so often at most. */
function useReadingAgain(slug: string): void {
  const client = useQueryClient();
  useEffect(() => {
    let timer: number | undefined;
    let next = 0;
    const readAgain = () => {
      timer ??= window.setTimeout(
        () => {
          timer = undefined;
          next = performance.now() + restMs;
          void client.invalidateQueries({ queryKey: keys.conversations(slug) });
        },
        Math.max(next - performance.now(), 0),
      );
    };
    const leave = liveReplies.onTurn(readAgain);
    const leaveChanges = liveReplies.onChange(readAgain);
    const leaveJobs = liveReplies.onJobs(readAgain);
    return () => {
      window.clearTimeout(timer);
      leave();
      leaveChanges();
      leaveJobs();
    };
  }, [client, slug]);
}

/** Pages that were read at different times may overlap. */
function onceEach(conversations: PackedConversation[]): PackedConversation[] {
  const seen = new Set<string>();
  return conversations.filter(({ id }) => !seen.has(id) && seen.add(id));
}
