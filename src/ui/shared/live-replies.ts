import { useCallback, useRef, useSyncExternalStore } from "react";
import { type BenchEvent, benchEventSchema, benchReplies } from "@/contract/replies";
import { isLast, type NumberedEvent } from "@/core/reply/events";
import { emptyReply, fold, type Reply } from "@/core/reply/reply";
import { server } from "./api";

type Listener = () => void;

/** Arrivals of a reply that the server is told of. */
const mostArrivals = 20_000;

/**
 * The replies that arrive in this tab, all through its one stream. Events of every reply are kept
 * until it has ended and been read anew, so that a view that opens late misses nothing.
 */
class LiveReplies {
  private readonly heard = new Map<string, NumberedEvent[]>();
  private readonly listeners = new Map<string, Set<Listener>>();
  private readonly onConversation = new Set<(event: BenchEvent) => void>();
  private source: EventSource | undefined;
  /** When the text of replies that began before this tab's eyes arrived, counted from their beginning. */
  private readonly arrivals = new Map<string, { began: number; parts: [at: number, length: number][] }>();

  /**
   * Opens the stream, once; the browser comes back by itself with the last id it had.
   * @param onOpen called when what was read before may have missed an event: at each opening, and when the
   * server says that the tab is further behind than it can be caught up with
   */
  open(onOpen: () => void): void {
    if (this.source) return;
    this.source = new EventSource(benchReplies.stream.path);
    this.source.onopen = onOpen;
    this.source.addEventListener("behind", () => {
      this.heard.clear();
      onOpen();
    });
    this.source.onmessage = (message) => {
      const heard = benchEventSchema.safeParse(JSON.parse(message.data));
      if (heard.success) this.take(heard.data);
      else console.error(`An event of the stream is not as expected: ${heard.error.message}`);
    };
  }

  /** Tells of each event that begins or ends a reply, of whatever conversation; returns how to leave. */
  watch(listener: (event: BenchEvent) => void): () => void {
    this.onConversation.add(listener);
    return () => void this.onConversation.delete(listener);
  }

  subscribe(reply: string, listener: Listener): () => void {
    const all = this.listeners.get(reply) ?? new Set();
    all.add(listener);
    this.listeners.set(reply, all);
    return () => void all.delete(listener);
  }

  eventsOf(reply: string): readonly NumberedEvent[] {
    return this.heard.get(reply) ?? none;
  }

  /** Lets go of a reply that is stored whole. */
  forget(reply: string): void {
    this.heard.delete(reply);
  }

  private take(heard: BenchEvent): void {
    const events = this.heard.get(heard.reply) ?? [];
    if ((events.at(-1)?.id ?? 0) < heard.event.id) events.push(heard.event);
    this.heard.set(heard.reply, events);
    this.time(heard);
    for (const listener of this.listeners.get(heard.reply) ?? []) listener();
    if (heard.event.event === "reply" || isLast(heard.event))
      for (const listener of this.onConversation) listener(heard);
  }

  /** Notes when text arrived, and tells the server when the reply has ended: that is how a hop that holds text back is found. */
  private time({ reply, event }: BenchEvent): void {
    const now = performance.now();
    if (event.event === "reply") this.arrivals.set(reply, { began: now, parts: [] });
    const timed = this.arrivals.get(reply);
    if (!timed) return;
    if (event.event === "text") timed.parts.push([Math.round(now - timed.began), event.data.text.length]);
    if (!isLast(event)) return;
    this.arrivals.delete(reply);
    // more than the server takes say no more about how the text came
    timed.parts.splice(mostArrivals);
    if (timed.parts.length > 0)
      void server.send(benchReplies.arrived, { id: reply, body: { arrivals: timed.parts } }).catch((error) => {
        // a verdict without the reader's side is still one
        console.warn(`When text arrived here could not be told: ${error}`);
      });
  }
}

const none: readonly NumberedEvent[] = [];

/** The one of this tab. */
export const liveReplies = new LiveReplies();

/** A reply as it stood when it was read, with the id of the last event in that. */
export interface ReadReply {
  id: string;
  cursor: number;
  reply: Reply;
}

/** A reply as it stands now: as it was read, and all that arrived since. */
export function useLiveReply(read: ReadReply): Reply {
  const folded = useRef({ id: "", cursor: -1, upTo: 0, reply: emptyReply });
  const subscribe = useCallback((listener: Listener) => liveReplies.subscribe(read.id, listener), [read.id]);
  const events = useSyncExternalStore(
    subscribe,
    () => liveReplies.eventsOf(read.id).length,
    () => 0,
  );
  const now = folded.current;
  if (now.id !== read.id || now.cursor !== read.cursor)
    folded.current = { id: read.id, cursor: read.cursor, upTo: 0, reply: read.reply };
  const state = folded.current;
  const all = liveReplies.eventsOf(read.id);
  for (; state.upTo < events; state.upTo += 1) {
    const event = all[state.upTo];
    if (event && event.id > state.cursor) state.reply = fold(state.reply, event);
  }
  return state.reply;
}
