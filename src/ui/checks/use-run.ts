import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { checks } from "@/contract/checks";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { liveReplies } from "../shared/use-live-reply";

/** A run as it stands: it is read again when trials of it have ended. */
export function useRun(id: string | undefined) {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: keys.run(id ?? ""),
    queryFn: () => server.send(checks.read, { id: id ?? "" }),
    enabled: id !== undefined,
  });
  useEffect(() => {
    if (id === undefined) return;
    const readAgain = () => void client.invalidateQueries({ queryKey: keys.run(id) });
    const leave = [liveReplies.onChange((changed) => changed === id && readAgain()), liveReplies.onMissed(readAgain)];
    return () => {
      for (const each of leave) each();
    };
  }, [id, client]);
  return query;
}

/** The scripts of an app, read again when one of them changes, in its folder too. */
export function useScripts(slug: string) {
  const client = useQueryClient();
  useEffect(() => {
    const readAgain = () => void client.invalidateQueries({ queryKey: keys.scripts(slug) });
    const leave = [liveReplies.onChange((changed) => changed === slug && readAgain()), liveReplies.onMissed(readAgain)];
    return () => {
      for (const each of leave) each();
    };
  }, [slug, client]);
  return useQuery({ queryKey: keys.scripts(slug), queryFn: () => server.send(checks.scripts, { slug }), staleTime: 0 });
}
