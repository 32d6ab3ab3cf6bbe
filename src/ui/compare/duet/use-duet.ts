import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Duet, duets } from "@/contract/duets";
import { isUnderWay } from "@/core/reply/reply";
import { server } from "../../shared/api";
import { keys } from "../../shared/queries";
import { liveReplies } from "../../shared/use-live-reply";

/** A duet as it stands: it is read again when an utterance of it begins or ends. */
export function useDuet(id: string | undefined) {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: keys.duet(id ?? ""),
    queryFn: () => server.send(duets.read, { id: id ?? "" }),
    enabled: id !== undefined,
    staleTime: 0,
  });
  const conversations = (query.data?.sides ?? []).flatMap(({ conversation }) => conversation ?? []).join(" ");
  useEffect(() => {
    if (id === undefined) return;
    const names = conversations === "" ? [] : conversations.split(" ");
    const readAgain = () => void client.invalidateQueries({ queryKey: keys.duet(id) });
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

/** What is being said in a duet, with the conversation that it is in. */
export function repliesOf({ sides, utterances }: Duet): { reply: string; conversation: string }[] {
  return utterances.flatMap(({ side, reply }) => {
    const conversation = sides[side]?.conversation;
    return reply && conversation && isUnderWay(reply.state) ? [{ reply: reply.id, conversation }] : [];
  });
}
