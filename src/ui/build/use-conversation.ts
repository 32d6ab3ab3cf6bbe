import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { benchLineSchema, type LineMessage } from "@/contract/conversations";
import { isUnderWay } from "@/core/reply/reply";
import { call } from "../shared/api";
import { liveReplies } from "../shared/live-replies";
import { keys, refreshConversation } from "../shared/queries";

/** The open conversation: its line as far as it was read, and how to read more of it. */
export interface OpenConversation {
  line: LineMessage[];
  /** What the next dispatch would carry of all that comes before `line`. */
  earlier: { messages: number; turns: number; tokens: number };
  /** The reply that is under way, if there is one. */
  underWay: Extract<LineMessage, { role: "app" }> | undefined;
  isRead: boolean;
  error: Error | null;
  readEarlier: (() => void) | undefined;
}

const nothingEarlier = { messages: 0, turns: 0, tokens: 0 };

/** Reads a conversation and keeps it up to date with what begins and ends in it; null for one that does not exist yet. */
export function useConversation(conversation: string | null): OpenConversation {
  const client = useQueryClient();
  const query = useInfiniteQuery({
    queryKey: keys.line(conversation ?? ""),
    queryFn: ({ pageParam }) =>
      call(
        "GET",
        `/api/bench/conversations/${conversation}${pageParam === null ? "" : `?before=${pageParam}`}`,
        benchLineSchema,
      ),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.before,
    enabled: conversation !== null,
  });

  useEffect(
    () =>
      liveReplies.watch(async (heard) => {
        if (heard.conversation !== conversation) return;
        await refreshConversation(client, heard.conversation);
        if (heard.event.event === "end" || heard.event.event === "problem") liveReplies.forget(heard.reply);
      }),
    [client, conversation],
  );

  const pages = query.data?.pages ?? [];
  const line = pages.toReversed().flatMap((page) => page.messages);
  const last = line.at(-1);
  return {
    line,
    earlier: pages.at(-1)?.earlier ?? nothingEarlier,
    underWay: last?.role === "app" && isUnderWay(last.state) ? last : undefined,
    isRead: conversation === null || query.isSuccess,
    error: query.error,
    readEarlier: query.hasNextPage ? () => void query.fetchNextPage() : undefined,
  };
}
