import { setTimeout as rest } from "node:timers/promises";
import type { HasDatabase } from "../database/database";
import type { HasHub } from "../live/hub";

/** Milliseconds that a transaction is given until the next writing of live text, and how much longer a rest is than one. */
const longest = 10;
const restFor = 2;

/** Writes in a transaction of its own, at a moment when no live text is about to be written, and rests after it. */
export async function gently({ hub, database }: HasHub & HasDatabase, write: () => void): Promise<void> {
  for (let wait = hub.untilCalm(longest); wait > 0; wait = hub.untilCalm(longest)) await rest(wait);
  const began = performance.now();
  database.transaction(write).immediate();
  await rest(restFor * (performance.now() - began));
}
