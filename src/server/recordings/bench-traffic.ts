import { atBench } from "@/core/recordings/recording";
import type { Traffic } from "../exchange/traffic";
import type { HasRecordings } from "./recording-store";

/**
 * Records what providers answer at the bench, of those that are switched on for it; undefined where none is. What
 * visitors say is never recorded: a file of recordings is made to be handed on.
 */
export function benchTraffic(
  { recordings }: HasRecordings,
  app: string,
  speakers: readonly { connection: { slug: string; records: boolean } }[],
): Traffic | undefined {
  const recorded = new Set(speakers.flatMap(({ connection: { slug, records } }) => (records ? [slug] : [])));
  if (recorded.size === 0) return undefined;
  return {
    isAlone: false,
    pace: "at-once",
    find: () => ({ kind: "called" }),
    keep(call, answer) {
      if (!recorded.has(call.provider)) return;
      const n = recordings.count(app, atBench, call) + 1;
      recordings.add(app, { at: new Date().toISOString(), of: atBench, n, call, answer });
    },
  };
}
