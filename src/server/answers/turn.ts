import type { CallForCaller } from "@/contract/replies";
import { toolsIn } from "@/core/conversation/pieces";
import type { HasHub } from "../live/hub";
import type { HasToolMeans } from "../tools/answering";

/** What of the process is used here. */
export type TurnNeeds = HasHub & HasToolMeans;

/** The calls of a reply that wait for whoever asked for it, where nothing else of it is under way. */
export function callsForCaller({ hub, toolMeans: { openCalls } }: TurnNeeds, reply: string): CallForCaller[] {
  const standing = hub.standing(reply);
  if (!standing) return [];
  const open = toolsIn(standing).filter(({ outcome }) => outcome === "waiting");
  const calls = open.flatMap(({ call, name, arguments: given }) => {
    const waitsFor = openCalls.waitsFor({ reply, call });
    return waitsFor === "caller" || waitsFor === "leave" ? [{ call, name, arguments: given, waitsFor }] : [];
  });
  return calls.length === open.length ? calls : [];
}

/** Waits until a reply has ended, or waits for whoever asked for it: gives its calls then. @throws {Refusal} `no-storage` */
export async function callersTurn(home: TurnNeeds, reply: string, signal?: AbortSignal): Promise<CallForCaller[]> {
  let wake = () => {};
  const leave = home.hub.follow(reply, ({ event }) => {
    if (event === "tool") wake();
  });
  if (!leave) return [];
  const gone = new Promise<void>((resolve) => signal?.addEventListener("abort", () => resolve(), { once: true }));
  try {
    for (;;) {
      const changed = new Promise<void>((resolve) => {
        wake = resolve;
      });
      const calls = callsForCaller(home, reply);
      if (calls.length > 0 || !home.hub.isLive(reply) || signal?.aborted) return calls;
      await Promise.race([changed, home.hub.ended(reply), gone]);
    }
  } finally {
    leave();
  }
}
