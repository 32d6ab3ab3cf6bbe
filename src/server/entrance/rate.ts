import { Refusal } from "../ground/refusal";
import type { Caller } from "./caller";
import type { HasLimits, Limit } from "./limits";

/** Seconds that a limit counts over. */
const window = 60;

/** One limit of an app as it counts a caller: by which name it is told, what it counts, and how many. */
interface Counted extends Limit {
  name: "app" | "address" | "visitor";
}

const counts: Record<Counted["name"], string> = {
  app: "of all its callers together",
  address: "from one address",
  visitor: "of one visitor",
};

/**
 * Takes a call that asks for a reply from the limits of its app; each take of a reply counts as one.
 * @param now epoch milliseconds
 * @throws {Refusal} `over-limit`, with the seconds to wait
 */
export function takeFromLimits({ limits }: HasLimits, caller: Caller, now: number, takes = 1): void {
  const all = limitsOn(caller);
  const over = limits.take(all, now, takes);
  if (!over) return;
  const { name } = all.find(({ who }) => who === over.limit.who) as Counted;
  throw new Refusal({
    kind: "over-limit",
    detail: `${caller.app.name} answers ${over.limit.aMinute} messages a minute ${counts[name]}; each take of a reply counts as one.`,
    advice: `Wait ${over.seconds} s.`,
    retryAfter: over.seconds,
  });
}

/**
 * What a caller has left of each limit, in the fields of draft-ietf-httpapi-ratelimit-headers-10: of so many a
 * window (`q`, `w`) so many remain (`r`), and all are there again after some seconds (`t`).
 */
export function rateHeaders({ limits }: HasLimits, caller: Caller, now: number): Record<string, string> {
  const counted = limitsOn(caller).flatMap(({ name, who, aMinute }) =>
    aMinute === null ? [] : [{ name, aMinute, ...limits.left({ who, aMinute }, now) }],
  );
  if (counted.length === 0) return {};
  return {
    "ratelimit-policy": counted.map(({ name, aMinute }) => `"${name}";q=${aMinute};w=${window}`).join(", "),
    ratelimit: counted.map(({ name, calls, seconds }) => `"${name}";r=${calls};t=${seconds}`).join(", "),
  };
}

function limitsOn({ app, seen, fresh, visitor }: Caller): Counted[] {
  const { limits } = app.access;
  const who = fresh.name ?? visitor;
  return [
    { name: "app", who: `${app.id} app`, aMinute: limits.app },
    { name: "address", who: `${app.id} at ${seen.address}`, aMinute: limits.address },
    ...(who ? [{ name: "visitor", who: `${app.id} is ${who}`, aMinute: limits.visitor } as const] : []),
  ];
}
