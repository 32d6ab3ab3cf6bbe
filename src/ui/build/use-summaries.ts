import { useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { summaries } from "@/contract/summaries";
import type { Problem } from "@/core/problem/problem";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";

/** What is done with the summaries of the open conversation. */
export interface SummaryActions {
  makeAnew: () => void;
  stop: () => void;
  /** Gives whether it was taken. */
  correct: (id: string, text: string) => Promise<boolean>;
  failure: Problem | undefined;
}

/** @param prepare has the draft stored, which says how they are made */
export function useSummaries(conversation: string | null, prepare: () => Promise<unknown>): SummaryActions {
  const client = useQueryClient();
  const id = conversation ?? "";
  const { done, problem } = useChange("The summary", async (work: () => Promise<unknown>) => {
    await work();
    await client.invalidateQueries({ queryKey: keys.line(id) });
  });
  return useMemo(
    () => ({
      makeAnew: () =>
        void done(async () => {
          await prepare();
          await server.send(summaries.make, { id });
        }),
      stop: () => void done(() => server.send(summaries.stop, { id })),
      correct: async (summary, text) =>
        (await done(() => server.send(summaries.correct, { id: summary, body: { text } }))).ok,
      failure: problem,
    }),
    [done, prepare, id, problem],
  );
}
