import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { benchConversations } from "@/contract/conversations";
import type { Problem } from "@/core/problem/problem";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";

/** Deleting conversations, and taking the last of it back. */
export interface Deletion {
  remove: (ids: readonly string[]) => void;
  /** What was deleted last and can be restored. */
  last: readonly string[];
  undo: () => void;
  /** Brings back what was deleted, here or elsewhere, within the day. */
  restore: (ids: readonly string[]) => void;
  /** Whether one was deleted here, and is out of sight at once. */
  isGone: (id: string) => boolean;
  problem: Problem | undefined;
}

export function useDeletion(slug: string): Deletion {
  const client = useQueryClient();
  const [last, setLast] = useState<readonly string[]>([]);
  const [gone, setGone] = useState<ReadonlySet<string>>(new Set());
  const touches = [keys.conversations(slug)];
  const deleting = useChange(
    "The deletion",
    async (ids: readonly string[]) => {
      await server.send(benchConversations.hideAll, { body: { ids: [...ids] } });
      for (const id of ids) client.removeQueries({ queryKey: keys.line(id) });
      setLast(ids);
      setGone((before) => new Set([...before, ...ids]));
    },
    touches,
  );
  const restoring = useChange(
    "Taking it back",
    async (ids: readonly string[]) => {
      await server.send(benchConversations.restoreAll, { body: { ids: [...ids] } });
      setLast((before) => before.filter((id) => !ids.includes(id)));
      setGone((before) => new Set([...before].filter((id) => !ids.includes(id))));
    },
    touches,
  );
  const { run: remove } = deleting;
  const { run: restore } = restoring;
  const problem = deleting.problem ?? restoring.problem;
  return useMemo(
    () => ({ remove, last, undo: () => restore(last), restore, isGone: (id) => gone.has(id), problem }),
    [remove, restore, last, gone, problem],
  );
}
