import { refuse } from "../ground/refusal";
import type { Asked } from "./ask";
import type { HasIdempotency, OwnedCall } from "./idempotency-store";

/** The reply that a call gives, and further takes of it. */
export interface Replies {
  reply: string;
  further: string[];
}

/** A call under a key; `caller` is null for one without an identity. */
export type KeyedCall = Omit<OwnedCall, "caller"> & { caller: string | null };

/**
 * The reply for a call: the one that the same caller's same call gave within the last day, or else the one that
 * `make` gives, which notes what was asked along with it. A key counts only within an identity: that of a caller who
 * had none counts from the first answer on, which gave one.
 * @throws {Refusal} `key-reused` where the key came with another body
 */
export function oncePerKey(
  { idempotency }: HasIdempotency,
  call: KeyedCall | undefined,
  make: (note: (asked: Asked) => void) => Replies,
): Replies {
  const now = Date.now();
  const before = call && call.caller !== null ? idempotency.find({ ...call, caller: call.caller }, now) : undefined;
  if (before && !before.sameBody)
    refuse("key-reused", `The Idempotency-Key ${call?.key} came with another body before.`);
  if (before) return before;
  return make(({ head, further, asker }) => {
    if (!call) return;
    const callers = new Set([call.caller, asker.kind === "visitor" ? asker.visitor : null]);
    for (const caller of callers) if (caller !== null) idempotency.add({ ...call, caller }, head.reply, further, now);
  });
}
