import { useCallback, useEffect, useSyncExternalStore } from "react";
import { benchReplies } from "@/contract/replies";
import { isUnderWay, type Reply } from "@/core/reply/reply";
import { server } from "./api";
import { BenchStream } from "./bench-stream";
import { LiveReplies, type ReadReply } from "./live-replies";

/** The one of this tab. */
export const liveReplies = new LiveReplies((id, arrivals) => {
  server.send(benchReplies.arrived, { id, body: { arrivals } }).catch((error) => {
    // a verdict without the reader's side is still one
    console.warn(`When text arrived here could not be told: ${error}`);
  });
});

/** The stream of this tab. */
export const benchStream = new BenchStream(() => new EventSource(benchReplies.stream.path), liveReplies);

/** Whether the server is heard: not while it is away, or refuses the stream. */
export function useIsHeard(): boolean {
  return useSyncExternalStore(
    benchStream.subscribe,
    () => benchStream.isHeard,
    () => true,
  );
}

/** A reply as it stands now: as it was read, and all that arrived since. */
export function useLiveReply(read: ReadReply): Reply {
  const { id, cursor, reply } = read;
  const subscribe = useCallback((listener: () => void) => liveReplies.subscribe(id, listener), [id]);
  const live = useSyncExternalStore(
    subscribe,
    () => liveReplies.replyOf(id),
    () => undefined,
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: a reply that was read up to the same event is the same
  useEffect(() => {
    if (isUnderWay(reply.state)) liveReplies.put({ id, cursor, reply });
  }, [id, cursor]);
  return live && live.cursor >= cursor ? live.reply : reply;
}
