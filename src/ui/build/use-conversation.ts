import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import type { CallFailed } from "@/contract/client";
import type { LineMessage } from "@/contract/conversations";
import { benchConversations } from "@/contract/conversations";
import type { BenchSummary, SummarisingState } from "@/contract/summaries";
import type { Clear } from "@/core/context/clear";
import type { PinnedTurn } from "@/core/context/row";
import { isLast } from "@/core/reply/events";
import { isUnderWay } from "@/core/reply/reply";
import { server } from "../shared/api";
import { keys, readEnd, wasReadUnderWay } from "../shared/queries";
import { liveReplies } from "../shared/use-live-reply";

const none: never[] = [];

/** The open conversation: its line as far as it was read, and how to read more of it. */
export interface OpenConversation {
  line: LineMessage[];
  /** The reply that is under way, if there is one. */
  underWay: Extract<LineMessage, { role: "app" }> | undefined;
  /** The clears in it that still matter, the last first. */
  clears: Clear[];
  /** The pinned turns in it. */
  pinned: PinnedTurn[];
  /** Its summaries, the newest first; and the next one, where it is being made or could not be. */
  summaries: BenchSummary[];
  summarising: SummarisingState | null;
  /** What its calls came to so far. */
  spent: { amount: number; currency: string } | undefined;
  /** Whether a visitor or another caller began it. */
  isOfVisitor: boolean;
  /** Whether its visitor goes on from another line. */
  isApart: boolean;
  isRead: boolean;
  error: CallFailed | null;
  readEarlier: (() => void) | undefined;
}

/** Reads a conversation and keeps it up to date with what begins and ends in it; null for one that does not exist yet. */
export function useConversation(conversation: string | null): OpenConversation {
  const client = useQueryClient();
  const query = useInfiniteQuery({
    queryKey: keys.line(conversation ?? ""),
    queryFn: ({ pageParam }) => server.send(benchConversations.read, { id: conversation ?? "", before: pageParam }),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (page) => page.before ?? undefined,
    enabled: conversation !== null,
  });

  // heard, which may be before it could be read: a reply that has ended is not under way
  const [ended, setEnded] = useState<string>();
  useEffect(() => {
    if (conversation === null) return;
    const readAgain = () => void readEnd(client, conversation);
    const leave = liveReplies.watch(conversation);
    const leaveTurns = liveReplies.onTurn((heard) => {
      if (heard.conversation !== conversation) return;
      if (isLast(heard.event)) setEnded(heard.reply);
      readAgain();
    });
    const leaveChanges = liveReplies.onChange((changed) => {
      if (changed === conversation) void client.invalidateQueries({ queryKey: keys.line(conversation) });
    });
    // one that was begun from here can have ended before it was watched
    if (wasReadUnderWay(client, conversation)) readAgain();
    return () => {
      leave();
      leaveTurns();
      leaveChanges();
    };
  }, [client, conversation]);

  const pages = query.data?.pages;
  const line = useMemo(() => (pages ?? []).toReversed().flatMap((page) => page.messages), [pages]);
  const underWay = line.findLast((message) => message.role === "app" && isUnderWay(message.state));
  useEffect(() => {
    for (const message of line)
      if (message.role === "app" && !isUnderWay(message.state)) liveReplies.forget(message.id);
  }, [line]);

  return {
    line,
    underWay: underWay?.role === "app" && underWay.id !== ended ? underWay : undefined,
    clears: pages?.[0]?.clears ?? none,
    pinned: pages?.[0]?.pinned ?? none,
    summaries: pages?.[0]?.summaries ?? none,
    summarising: pages?.[0]?.summarising ?? null,
    spent: pages?.[0]?.price ?? undefined,
    isOfVisitor: ["page", "http", "terminal"].includes(pages?.[0]?.origin ?? ""),
    isApart: pages?.[0]?.isApart ?? false,
    isRead: conversation === null || query.isSuccess,
    error: query.error,
    readEarlier: query.hasNextPage ? () => void query.fetchNextPage() : undefined,
  };
}
