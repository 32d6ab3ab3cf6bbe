import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import { benchConversations } from "@/contract/conversations";
import { isLast } from "@/core/reply/events";
import { isUnderWay } from "@/core/reply/reply";
import { server } from "../shared/api";
import { liveReplies } from "../shared/live-replies";
import { keys, refreshConversation } from "../shared/queries";

/** The open conversation: its line as far as it was read, and how to read more of it. */
export interface OpenConversation {
  line: LineMessage[];
  /** The reply that is under way, if there is one. */
  underWay: Extract<LineMessage, { role: "app" }> | undefined;
  isRead: boolean;
  error: Error | null;
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
  useEffect(
    () =>
      liveReplies.watch((heard) => {
        if (heard.conversation !== conversation) return;
        if (isLast(heard.event)) setEnded(heard.reply);
        void refreshConversation(client, heard.conversation);
      }),
    [client, conversation],
  );

  const pages = query.data?.pages ?? [];
  const line = pages.toReversed().flatMap((page) => page.messages);
  const last = line.at(-1);
  const isStored = last?.role === "app" && !isUnderWay(last.state);
  useEffect(() => {
    if (isStored) liveReplies.forget(last.id);
  }, [isStored, last?.id]);

  return {
    line,
    underWay: last?.role === "app" && !isStored && last.id !== ended ? last : undefined,
    isRead: conversation === null || query.isSuccess,
    error: query.error,
    readEarlier: query.hasNextPage ? () => void query.fetchNextPage() : undefined,
  };
}
