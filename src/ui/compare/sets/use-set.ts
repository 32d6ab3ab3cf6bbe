import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type MessageSet, sets } from "@/contract/sets";
import { server } from "../../shared/api";
import { keys } from "../../shared/queries";
import { liveReplies } from "../../shared/use-live-reply";
import { withAnswers } from "./answered";

/** A set as it stands: what is answered meanwhile is read alone, and put to what was read before. */
export function useSet(id: string | undefined) {
  const client = useQueryClient();
  const queryKey = keys.set(id ?? "");
  const query = useQuery({
    queryKey,
    queryFn: async () => {
      const before = client.getQueryData<MessageSet>(queryKey);
      const after = before?.answers.at(-1)?.seq;
      const read = await server.send(sets.read, { id: id ?? "", after });
      return before ? withAnswers(before, read) : read;
    },
    enabled: id !== undefined,
    staleTime: 0,
  });
  useEffect(() => {
    if (id === undefined) return;
    const readAgain = () => void client.invalidateQueries({ queryKey: keys.set(id) });
    const leave = [liveReplies.onChange((changed) => changed === id && readAgain()), liveReplies.onMissed(readAgain)];
    return () => {
      for (const each of leave) each();
    };
  }, [id, client]);
  return query;
}
