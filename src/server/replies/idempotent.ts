import type { Home } from "../home";
import { refuse } from "../refusal";
import type { Asked } from "./ask";
import type { KeyedCall } from "./idempotency-store";

/** The reply that a call gives, and further takes of it. */
export interface Replies {
  reply: string;
  further: string[];
}

/**
 * The reply for a call: the one that the same call gave within the last day, or else the one that `make`
 * gives, which notes what was asked along with it. A caller without an identity is known by the key
 * alone, and by the identity that the first answer gave it.
 * @throws {Refusal} `key-reused` where the key came with another body
 */
export function oncePerKey(
  { idempotency }: Home,
  call: KeyedCall | undefined,
  make: (note: (asked: Asked) => void) => Replies,
): Replies {
  const now = Date.now();
  const before = call && idempotency.find(call, now);
  if (before && !before.sameBody)
    refuse("key-reused", `The Idempotency-Key ${call.key} came with another body before.`);
  if (before) return before;
  return make(({ head, further, asker }) => {
    if (!call) return;
    const callers = new Set([call.caller, asker.kind === "visitor" ? asker.visitor : ""]);
    for (const caller of callers) idempotency.add({ ...call, caller }, head.reply, further, now);
  });
}
