import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type Serving, serving } from "@/contract/serving";
import type { Look } from "@/core/look/look";
import type { Access } from "@/core/serving/access";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";

/** Milliseconds between two looks at what may change by itself: calls, and a watched file. */
export const often = 1_000;

/** How an app is served, and what changes that. What is changed shows at once. */
export function useServing(slug: string) {
  const client = useQueryClient();
  const key = keys.serving(slug);
  const query = useQuery({
    queryKey: key,
    queryFn: () => server.send(serving.read, { slug }),
    refetchInterval: often,
  });
  const change = useChange(
    "The change",
    async (change: { access: Access } | { look: Look }) => {
      await client.cancelQueries({ queryKey: key });
      client.setQueryData<Serving>(key, (before) => before && { ...before, ...change });
      return "access" in change
        ? server.send(serving.setAccess, { slug, body: change })
        : server.send(serving.setLook, { slug, body: change });
    },
    [key],
  );
  return {
    served: query.data,
    problem: query.error?.problem ?? change.problem,
    /** Says what is different about who may call. */
    allow: (access: Partial<Access>) => {
      const now = client.getQueryData<Serving>(key);
      if (now) change.run({ access: { ...now.access, ...access } });
    },
    /** Says what is different about the look. */
    dress: (look: Partial<Look>) => {
      const now = client.getQueryData<Serving>(key);
      if (now) change.run({ look: { ...now.look, ...look } });
    },
  };
}

export type Served = ReturnType<typeof useServing>;
