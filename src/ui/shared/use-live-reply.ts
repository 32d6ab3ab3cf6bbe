import { useCallback, useEffect, useSyncExternalStore } from "react";
import { benchEventSchema, benchReplies, changedSchema } from "@/contract/replies";
import { isUnderWay, type Reply } from "@/core/reply/reply";
import { server } from "./api";
import { LiveReplies, type ReadReply } from "./live-replies";

/** The one of this tab. */
export const liveReplies = new LiveReplies((id, arrivals) => {
  server.send(benchReplies.arrived, { id, body: { arrivals } }).catch((error) => {
    // a verdict without the reader's side is still one
    console.warn(`When text arrived here could not be told: ${error}`);
  });
});

let source: EventSource | undefined;

/**
 * Opens the stream of this tab, once; the browser comes back by itself with the last id it had.
 * @param onOpen called when what was read before may have missed an event: at each opening, and when the
 * server says that the tab is further behind than it can be caught up with
 */
export function openStream(onOpen: () => void): void {
  if (source) return;
  source = new EventSource(benchReplies.stream.path);
  source.onopen = onOpen;
  source.addEventListener("behind", () => {
    liveReplies.clear();
    onOpen();
  });
  source.addEventListener("changed", ({ data }) => {
    const heard = changedSchema.safeParse(JSON.parse(data));
    if (heard.success) liveReplies.hearChange(heard.data.conversation);
  });
  source.addEventListener("jobs", () => liveReplies.hearJobs());
  source.onmessage = (message) => {
    const heard = benchEventSchema.safeParse(JSON.parse(message.data));
    if (heard.success) liveReplies.hear(heard.data);
    else console.error(`An event of the stream is not as expected: ${heard.error.message}`);
  };
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
