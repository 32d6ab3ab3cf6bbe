import { type QueryKey, useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import type { Problem } from "@/core/problem/problem";
import { failureIn } from "./api";

/** Something that a view has the server do. */
export interface Change<V, T> {
  /** Does it; what goes wrong is in `problem`. */
  run: (value: V) => void;
  /** Carries a change out, and gives whether it was done, with what came of it. */
  done: (value: V) => Promise<{ ok: true; value: T } | { ok: false }>;
  isRunning: boolean;
  /** Why the last one failed, until it is tried again or put aside. */
  problem: Problem | undefined;
  putAside: () => void;
}

/**
 * A change that a view has the server make. What was read under the keys that it touches is read anew, whether
 * it went well or not.
 * @param what is changed, as it stands at the beginning of a sentence
 * @param turns the name of changes that are made one after the other, in the order in which they were asked for
 */
export function useChange<V = void, T = unknown>(
  what: string,
  change: (value: V) => Promise<T>,
  touches: readonly QueryKey[] = [],
  turns?: string,
): Change<V, T> {
  const client = useQueryClient();
  const { mutate, mutateAsync, isPending, error, reset } = useMutation({
    mutationFn: (value: V) =>
      change(value).catch((error) => {
        throw failureIn(error, what);
      }),
    scope: turns === undefined ? undefined : { id: turns },
    onSettled: () => Promise.all(touches.map((queryKey) => client.invalidateQueries({ queryKey }))),
  });
  const done = useCallback(
    (value: V) =>
      mutateAsync(value).then(
        (made) => ({ ok: true as const, value: made }),
        () => ({ ok: false as const }),
      ),
    [mutateAsync],
  );
  return { run: mutate, done, isRunning: isPending, problem: error?.problem, putAside: reset };
}
