import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Job, jobs } from "@/contract/jobs";
import { server } from "../api";
import { keys } from "../queries";
import { liveReplies } from "../use-live-reply";

/** Milliseconds between two looks at how far jobs are, while some run. */
const often = 700;

/** The latest jobs, as they stand now: those that run first. */
export function useJobs(): Job[] {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: keys.jobs,
    queryFn: () => server.send(jobs.list, {}),
    refetchInterval: ({ state }) => (state.data?.jobs.some(isRunning) ? often : false),
  });
  useEffect(() => liveReplies.onJobs(() => void client.invalidateQueries({ queryKey: keys.jobs })), [client]);
  return query.data?.jobs ?? [];
}

export function isRunning({ state }: Job): boolean {
  return state === "running";
}

/** How far a job is, in percent. */
export function percentOf({ done, of }: Job): number {
  return of === 0 ? 0 : Math.floor((done / of) * 100);
}
