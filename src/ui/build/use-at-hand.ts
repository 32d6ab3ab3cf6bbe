import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { benchConversations } from "@/contract/conversations";
import { rowsOf } from "@/core/context/outline";
import type { Memory } from "@/core/context/policies/policies";
import { policyOf } from "@/core/context/policies/policies";
import { type Row, rowOf } from "@/core/context/row";
import type { AtHand } from "@/core/context/track";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import type { Conversation } from "./conversation/conversation";

const none: never[] = [];

/**
 * What of the open conversation the reach is measured on: the messages that were read, and above them, where the
 * memory has to see more than their sum, the outline of the line.
 */
export function useAtHand(
  id: string,
  { line, before, about }: Pick<Conversation, "line" | "before" | "about">,
  memory: Memory,
): { atHand: AtHand; firstRead: number } {
  const first = line[0]?.id;
  const { clears = none, pinned = none, summaries = none } = about ?? {};
  const wantsMore = before !== null && (!policyOf(memory).isWhole || memory.apart === true);
  const outline = useQuery({
    queryKey: [...keys.line(id), "outline", first],
    queryFn: async () => rowsOf(await server.send(benchConversations.outline, { id })),
    enabled: wantsMore,
  });
  return useMemo(() => {
    const above = wantsMore ? rowsAbove(outline.data, first) : [];
    return { atHand: { rows: [...above, ...line.map(rowOf)], clears, pinned, summaries }, firstRead: above.length };
  }, [wantsMore, outline.data, first, line, clears, pinned, summaries]);
}

/** The rows of an outline above a message; none where it is not in it. */
function rowsAbove(rows: Row[] | undefined, message: string | undefined): Row[] {
  const at = rows?.findIndex(({ id }) => id === message) ?? -1;
  return at > 0 && rows ? rows.slice(0, at) : [];
}
