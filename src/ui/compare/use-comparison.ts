import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Comparison, comparisons } from "@/contract/comparisons";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { liveReplies } from "../shared/use-live-reply";

/** A comparison as it stands: it is read again when something of it begins, ends or changes. */
export function useComparison(id: string | undefined) {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: keys.comparison(id ?? ""),
    queryFn: () => server.send(comparisons.read, { id: id ?? "" }),
    enabled: id !== undefined,
  });
  const conversations = conversationsOf(query.data);
  useEffect(() => {
    if (id === undefined) return;
    const names = conversations === "" ? [] : conversations.split(" ");
    const readAgain = () => void client.invalidateQueries({ queryKey: keys.comparison(id) });
    const leave = [
      ...names.map((each) => liveReplies.watch(each)),
      liveReplies.onTurn(({ conversation }) => names.includes(conversation) && readAgain()),
      liveReplies.onChange((changed) => (changed === id || names.includes(changed)) && readAgain()),
      liveReplies.onMissed(readAgain),
    ];
    return () => {
      for (const each of leave) each();
    };
  }, [id, conversations, client]);
  return query;
}

/** The conversations of its lanes, as one text, which is the same for as long as they are. */
function conversationsOf(comparison: Comparison | undefined): string {
  return (comparison?.lanes ?? []).flatMap(({ conversation }) => conversation ?? []).join(" ");
}
