import { useCallback, useRef, useSyncExternalStore } from "react";
import { type BenchEvent, benchEventSchema } from "@/contract/replies";
import { isLast, type NumberedEvent } from "@/core/reply/events";
import { emptyReply, fold, type Reply } from "@/core/reply/reply";
import { tell } from "./api";

type Listener = () => void;

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
   * @param onOpen called at each opening: what was read before it may have missed an event
   */
  open(onOpen: () => void): void {
    if (this.source) return;
    this.source = new EventSource("/api/bench/stream");
    this.source.onopen = onOpen;
    this.source.onmessage = (message) => this.take(benchEventSchema.parse(JSON.parse(message.data)));
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
    if (timed.parts.length > 0)
      void tell("PUT", `/api/bench/replies/${reply}/arrivals`, { arrivals: timed.parts }).catch(() => {
        // a verdict without the reader's side is still one
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
