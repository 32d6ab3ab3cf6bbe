import type { Guard } from "../guard";

/** A guard before showing. */
export function shown(looksFor: Guard["looksFor"], does: Guard["does"] = "mask", more: Partial<Guard> = {}): Guard {
  return { name: `${looksFor.kind} ${does}`, on: "shown", looksFor, does, ...more };
}

/** A guard before sending. */
export function sent(looksFor: Guard["looksFor"], does: Guard["does"] = "mask", more: Partial<Guard> = {}): Guard {
  return { ...shown(looksFor, does), on: "sent", ...more };
}
