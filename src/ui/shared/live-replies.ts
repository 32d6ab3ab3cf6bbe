import type { BenchEvent, ChangedApp } from "@/contract/replies";
import { isLast, type NumberedEvent } from "@/core/reply/events";
import { emptyReply, fold, type Reply } from "@/core/reply/reply";

type Listener = () => void;

/** When text arrived here: milliseconds after the reply was begun, and the number of characters. */
export type Arrivals = [at: number, length: number][];

/** Arrivals of a reply that the server is told of; more say no more about how the text came. */
const mostArrivals = 20_000;

/** A reply as it stood when it was read, with the id of the last event in that. */
export interface ReadReply {
  id: string;
  cursor: number;
  reply: Reply;
}

/** A reply as it stands, folded up to an event. */
export type LiveReply = Readonly<Omit<ReadReply, "id">>;

/** What is known of a reply in this tab. */
interface Entry {
  conversation: string;
  live: LiveReply | undefined;
  /** Events that came before it was known how the reply stood. */
  early: NumberedEvent[];
  /** Whether an event between those that came is missing. */
  isHoled: boolean;
  began: number;
  arrivals: Arrivals;
  /** When thoughts arrived, in the same way. */
  thoughts: Arrivals;
  hasEnded: boolean;
}

/**
 * The replies that arrive in this tab. Each event is folded once, when it comes; who asks in between gets the
 * same object. Where an event is missing, the conversation is read again before any more is folded. Only replies of conversations that are watched are kept, and those that are being asked for here.
 */
export class LiveReplies {
  private readonly entries = new Map<string, Entry>();
  /** Replies as they were read, of which nothing has come since. */
  private readonly reads = new Map<string, LiveReply>();
  /** How many views watch a conversation. */
  private readonly watched = new Map<string, number>();
  private readonly listeners = new Map<string, Set<Listener>>();
  private readonly onTurns = new Set<(event: BenchEvent) => void>();
  private readonly jobListeners = new Set<Listener>();
  private readonly onChanges = new Set<(conversation: string) => void>();
  private readonly appListeners = new Set<(app: ChangedApp) => void>();
  private readonly missedListeners = new Set<Listener>();
  /** Conversations that were begun here and are about to be watched. */
  private readonly expected = new Set<string>();
  /** Replies that this tab asked for. */
  private readonly asked = new Set<string>();
  private asking = 0;

  /** @param report is told when the text of a reply that was asked for here arrived, once it has ended */
  constructor(private readonly report: (reply: string, arrivals: Arrivals) => void) {}

  /** How many replies are kept. */
  get size(): number {
    return this.entries.size;
  }

  /** Takes an event of any reply. */
  hear({ reply, conversation, event }: BenchEvent, now = performance.now()): void {
    if (this.watched.has(conversation) || this.expected.has(conversation) || this.asking > 0)
      this.keep(reply, conversation, event, now);
    if (event.event === "reply" || isLast(event))
      for (const listener of this.onTurns) listener({ reply, conversation, event });
  }

  /** Keeps what arrives in a conversation, until every view that watches it has left; returns how to leave. */
  watch(conversation: string): () => void {
    this.watched.set(conversation, (this.watched.get(conversation) ?? 0) + 1);
    this.expected.delete(conversation);
    return () => {
      const left = (this.watched.get(conversation) ?? 1) - 1;
      if (left > 0) this.watched.set(conversation, left);
      else {
        this.watched.delete(conversation);
        this.drop((entry) => entry.conversation === conversation);
        if (this.watched.size === 0) this.reads.clear();
      }
    };
  }

  /** Tells of each event that begins or ends a reply, of whatever conversation; returns how to leave. */
  onTurn(listener: (event: BenchEvent) => void): () => void {
    this.onTurns.add(listener);
    return () => void this.onTurns.delete(listener);
  }

  /** Tells of each conversation that changed otherwise than by a reply; returns how to leave. */
  onChange(listener: (conversation: string) => void): () => void {
    this.onChanges.add(listener);
    return () => void this.onChanges.delete(listener);
  }

  /** Tells of each app that changed, or whose draft did; returns how to leave. */
  onApp(listener: (app: ChangedApp) => void): () => void {
    this.appListeners.add(listener);
    return () => void this.appListeners.delete(listener);
  }

  hearApp(app: ChangedApp): void {
    for (const listener of this.appListeners) listener(app);
  }

  /** Tells when something may have been missed, so that what was read is to be read again; returns how to leave. */
  onMissed(listener: Listener): () => void {
    this.missedListeners.add(listener);
    return () => void this.missedListeners.delete(listener);
  }

  hearMissed(): void {
    for (const listener of this.missedListeners) listener();
  }

  /** Tells when jobs changed; returns how to leave. */
  onJobs(listener: Listener): () => void {
    this.jobListeners.add(listener);
    return () => void this.jobListeners.delete(listener);
  }

  hearJobs(): void {
    for (const listener of this.jobListeners) listener();
  }

  /** Takes note of such a change. */
  hearChange(conversation: string): void {
    for (const listener of this.onChanges) listener(conversation);
  }

  /** Asks for a reply: what comes of it is kept, though it begins before it is known which one it is. */
  ask<T extends { reply: string; conversation: string }>(work: () => Promise<T>): Promise<T> {
    return this.askAll(work, (accepted) => [accepted]);
  }

  /** Asks for several, as they are found in what is answered. */
  async askAll<T>(
    work: () => Promise<T>,
    begun: (answer: T) => readonly { reply: string; conversation: string }[],
  ): Promise<T> {
    this.asking += 1;
    try {
      const accepted = await work();
      for (const { reply, conversation } of begun(accepted)) {
        this.asked.add(reply);
        if (!this.watched.has(conversation)) this.expected.add(conversation);
      }
      return accepted;
    } finally {
      this.asking -= 1;
      this.drop(({ conversation }) => !this.watched.has(conversation) && !this.expected.has(conversation));
      for (const reply of this.asked) this.tellArrivals(reply);
    }
  }

  /** Takes a reply as it was read; what came after that is folded on. */
  put({ id, cursor, reply }: ReadReply): void {
    const entry = this.entries.get(id);
    if (!entry) this.reads.set(id, { cursor, reply });
    if (!entry || (entry.live && entry.live.cursor >= cursor)) return;
    entry.live = entry.early.reduce(next, { cursor, reply });
    entry.early = [];
    entry.isHoled = false;
    this.tell(id);
  }

  /** A reply as it stands; undefined where that is not known here. The same object until something comes. */
  replyOf(id: string): LiveReply | undefined {
    return this.entries.get(id)?.live;
  }

  /** When text and thoughts of a reply arrived in this tab, counted from when it was first heard of; undefined where it was not. */
  arrivalsOf(id: string): { began: number; text: Arrivals; thoughts: Arrivals } | undefined {
    const entry = this.entries.get(id);
    return entry && { began: entry.began, text: entry.arrivals, thoughts: entry.thoughts };
  }

  subscribe(id: string, listener: Listener): () => void {
    const all = this.listeners.get(id) ?? new Set();
    this.listeners.set(id, all.add(listener));
    return () => {
      all.delete(listener);
      if (all.size === 0) this.listeners.delete(id);
    };
  }

  /** Lets go of a reply that has ended and was read. */
  forget(id: string): void {
    if (this.entries.get(id)?.hasEnded) this.entries.delete(id);
  }

  /** Lets go of all, since events were missed. */
  clear(): void {
    this.entries.clear();
    this.reads.clear();
  }

  private keep(id: string, conversation: string, event: NumberedEvent, now: number): void {
    const entry = this.entries.get(id) ?? this.begin(id, conversation, event, now);
    if (entry.live && event.id > entry.live.cursor + 1 && !entry.isHoled) {
      entry.isHoled = true;
      this.hearChange(conversation);
    }
    if (entry.live && !entry.isHoled) entry.live = next(entry.live, event);
    else entry.early.push(event);
    if (event.event === "text" || event.event === "thought") {
      const arrivals = event.event === "text" ? entry.arrivals : entry.thoughts;
      if (arrivals.length < mostArrivals) arrivals.push([Math.round(now - entry.began), event.data.text.length]);
    }
    entry.hasEnded ||= isLast(event);
    this.tell(id);
    this.tellArrivals(id);
  }

  private begin(id: string, conversation: string, event: NumberedEvent, began: number): Entry {
    const isFirst = event.event === "reply";
    const live = isFirst ? { cursor: 0, reply: emptyReply } : this.reads.get(id);
    this.reads.delete(id);
    const entry: Entry = {
      conversation,
      live,
      early: [],
      began,
      isHoled: false,
      arrivals: [],
      thoughts: [],
      hasEnded: false,
    };
    this.entries.set(id, entry);
    return entry;
  }

  /** Tells the server when the text of a reply arrived: that is how a hop that holds text back is found. */
  private tellArrivals(id: string): void {
    const entry = this.entries.get(id);
    if (!entry?.hasEnded || !this.asked.delete(id)) return;
    if (entry.arrivals.length > 0) this.report(id, entry.arrivals);
  }

  private tell(id: string): void {
    for (const listener of this.listeners.get(id) ?? []) listener();
  }

  private drop(isOver: (entry: Entry) => boolean): void {
    for (const [id, entry] of this.entries) if (isOver(entry)) this.entries.delete(id);
  }
}

/** A reply after one more event; the same where it holds that event already. */
function next(live: LiveReply, event: NumberedEvent): LiveReply {
  return event.id <= live.cursor ? live : { cursor: event.id, reply: fold(live.reply, event) };
}
