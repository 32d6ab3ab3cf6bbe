import { isInner, type Problem, problem, titleOf } from "@/core/problem/problem";
import type { StoredEvent } from "../replies/event-store";

/**
 * A problem as callers are told it. What failed between Unruly Finch and a provider is the developer's to
 * know: callers get its kind, and how long to wait, but no address, no setting and no word of the provider.
 */
export function problemForCaller(failure: Problem): Problem {
  if (!isInner(failure.kind)) return failure;
  const { retryAfter } = failure;
  return problem(failure.kind, `${titleOf(failure.kind)}.`, {
    advice: "Try again later. Whoever runs this app finds the reason beside the reply, at the bench.",
    ...(retryAfter === undefined ? {} : { retryAfter }),
  });
}

/** An event as callers get it. */
export function forCaller(event: StoredEvent): StoredEvent {
  if (event.event === "problem") return { ...event, data: JSON.stringify(problemForCaller(JSON.parse(event.data))) };
  if (event.event !== "attempt") return event;
  const next = JSON.parse(event.data);
  return { ...event, data: JSON.stringify({ ...next, because: problemForCaller(next.because) }) };
}
