import type { Boot } from "../boot";
import { refuse } from "../refusal";
import type { KeyedCall } from "./idempotency-store";

/**
 * The reply for a call: the one that the same call gave before, or else the one that `make` gives.
 * @throws {Refusal} `key-reused` where the key came with another body
 */
export function oncePerKey({ idempotency }: Boot, call: KeyedCall | undefined, make: () => string): string {
  const before = call && idempotency.find(call);
  if (before && !before.sameBody)
    refuse("key-reused", `The Idempotency-Key ${call.key} came with another body before.`);
  if (before) return before.reply;
  const reply = make();
  if (call) idempotency.add(call, reply, Date.now());
  return reply;
}
