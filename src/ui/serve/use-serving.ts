import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Serving, serving } from "@/contract/serving";
import type { Look } from "@/core/look/look";
import type { Access } from "@/core/serving/access";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";

/** Milliseconds between two looks at what may change by itself: calls, and a watched file. */
export const often = 1_000;

/** How an app is served, and what changes that. What is changed shows at once, and until it is stored. */
export function useServing(slug: string) {
  const key = keys.serving(slug);
  const query = useQuery({
    queryKey: key,
    queryFn: () => server.send(serving.read, { slug }),
    refetchInterval: often,
  });
  const [said, setSaid] = useState<Partial<Pick<Serving, "access" | "look">>>({});
  const served = query.data && { ...query.data, ...said };
  const change = useChange(
    "The change",
    (change: { access: Access } | { look: Look }) =>
      "access" in change
        ? server.send(serving.setAccess, { slug, body: change })
        : server.send(serving.setLook, { slug, body: change }),
    [key],
    `serving ${slug}`,
  );
  const say = async (now: { access: Access } | { look: Look }) => {
    const next = { ...said, ...now };
    setSaid(next);
    await change.done(now);
    setSaid((last) => (last === next ? {} : last));
  };
  return {
    served,
    problem: query.error?.problem ?? change.problem,
    /** Says what is different about who may call. */
    allow: (access: Partial<Access>) => {
      if (served) void say({ access: { ...served.access, ...access } });
    },
    /** Says what is different about the look. */
    dress: (look: Partial<Look>) => {
      if (served) void say({ look: { ...served.look, ...look } });
    },
  };
}

export type Served = ReturnType<typeof useServing>;
