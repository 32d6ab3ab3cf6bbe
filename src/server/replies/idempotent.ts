import type { Boot } from "../boot";
import { refuse } from "../refusal";
import type { KeyedCall } from "./idempotency-store";

/**
 * The reply for a call: the one that the same call gave before, or else the one that `make` gives,
 * with the visitor that it belongs to. A caller without an identity is known by the key alone, and
 * by the identity that the first answer gave it.
 * @throws {Refusal} `key-reused` where the key came with another body
 */
export function oncePerKey(
  { idempotency }: Boot,
  call: KeyedCall | undefined,
  make: () => { reply: string; visitor: string },
): string {
  const before = call && idempotency.find(call);
  if (before && !before.sameBody)
    refuse("key-reused", `The Idempotency-Key ${call.key} came with another body before.`);
  if (before) return before.reply;
  const { reply, visitor } = make();
  const callers = new Set(call ? [call.caller, visitor] : []);
  for (const caller of callers) if (call) idempotency.add({ ...call, caller }, reply, Date.now());
  return reply;
}
