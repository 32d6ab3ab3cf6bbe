import type { Logger } from "pino";
import { isLast, type ReplyEvent } from "@/core/reply/events";
import { emptyReply, fold, type Reply } from "@/core/reply/reply";
import type { Database } from "../database/database";
import type { EventStore, PublishedEvent } from "./event-store";

/** Milliseconds between two writes of the text that comes in. */
const tick = 50;
/** Milliseconds that a write waits for text that may come just then. */
const slack = 10;

/** Gets committed events, in order. */
export type Reader = (event: PublishedEvent) => void;

/** A reply that is being made. */
interface LiveReply {
  reply: string;
  conversation: string;
  standing: Reply;
  /** The id of its last committed event. */
  lastId: number;
  pending: ReplyEvent[];
  /** The kinds of events that were written at least once. */
  shown: Set<string>;
  readers: Set<Reader>;
  /** Ends the making early; resolves when the provider's connection is closed. */
  halt: () => Promise<void>;
  ended: Promise<void>;
  end: () => void;
}

/**
 * Carries the events of all replies from where they are made to whoever reads them. It commits
 * before it publishes: an event that any reader gets is in the database. The first text of a reply
 * goes at once; after that text is gathered, and all live replies are written in one transaction a
 * tick. Work that belongs to the same moment is committed along.
 */
export class ReplyHub {
  private readonly live = new Map<string, LiveReply>();
  private readonly everything = new Set<Reader>();
  private along: (() => void)[] = [];
  private timer: NodeJS.Timeout | undefined;
  private lastFlush = 0;

  constructor(
    private readonly database: Database,
    private readonly events: EventStore,
    private readonly log: Logger,
  ) {}

  /** Begins a reply. */
  begin(reply: string, conversation: string): void {
    let end = () => {};
    const ended = new Promise<void>((resolve) => {
      end = resolve;
    });
    this.live.set(reply, {
      reply,
      conversation,
      standing: emptyReply,
      lastId: 0,
      pending: [],
      shown: new Set(),
      readers: new Set(),
      halt: async () => {},
      ended,
      end,
    });
  }

  /** Says how a reply's making is ended early. */
  onStop(reply: string, halt: () => Promise<void>): void {
    const live = this.live.get(reply);
    if (live) live.halt = halt;
  }

  /**
   * Takes events of a live reply; those given together are written together. An end or a problem
   * is the last. Text is gathered once some was shown; all else is written at once.
   */
  publish(reply: string, ...events: ReplyEvent[]): void {
    const live = this.live.get(reply);
    if (!live) return;
    let canWait = true;
    for (const event of events) {
      live.standing = fold(live.standing, event);
      gather(live.pending, event);
      canWait &&= isText(event) && live.shown.has(event.event);
      live.shown.add(event.event);
    }
    if (canWait && performance.now() < this.lastFlush + tick) this.flushSoon();
    else this.flushOrRetry();
  }

  /** Has work done in the transaction of the next write. */
  commitAlong(work: () => void): void {
    this.along.push(work);
    this.flushSoon();
  }

  /** How a live reply stands, with the id of its last committed event. */
  standing(reply: string): (Reply & { cursor: number }) | undefined {
    const live = this.live.get(reply);
    if (!live) return undefined;
    this.flush();
    return { ...live.standing, cursor: live.lastId };
  }

  /**
   * Gives a reader the events of a reply after one of its ids, first those that were written, then
   * those to come.
   * @returns how to leave, and whether more may come
   */
  follow(reply: string, after: number, reader: Reader): { leave: () => void; goesOn: boolean } {
    for (const event of this.events.ofReply(reply, after)) reader(event);
    const live = this.live.get(reply);
    live?.readers.add(reader);
    return { leave: () => void live?.readers.delete(reader), goesOn: live !== undefined };
  }

  /** Gives a reader the events of all replies from now on; returns how to leave. */
  followAll(reader: Reader): () => void {
    this.everything.add(reader);
    return () => void this.everything.delete(reader);
  }

  /** Stops a reply and waits until it has ended; does nothing to one that has. */
  async stop(reply: string): Promise<void> {
    const live = this.live.get(reply);
    if (!live) return;
    await live.halt();
    await live.ended;
  }

  /** Resolves when a reply has ended; at once for one that is not live. */
  async ended(reply: string): Promise<void> {
    await this.live.get(reply)?.ended;
  }

  /** Writes a tick after the last write. Text that comes just then writes by itself, which saves waking up twice. */
  private flushSoon(): void {
    if (this.timer) return;
    const due = Math.max(this.lastFlush + tick - performance.now(), 0);
    this.timer = setTimeout(() => this.flushOrRetry(), due + slack);
  }

  /** Nothing is lost when a write fails (a full disk, say): what is pending stays so. */
  private flushOrRetry(): void {
    try {
      this.flush();
    } catch (error) {
      this.log.error({ error }, "replies could not be written; trying again in a second");
      this.timer = setTimeout(() => this.flushOrRetry(), 1000);
    }
  }

  private flush(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.lastFlush = performance.now();
    const published = this.commit();
    for (const event of published) {
      const live = this.live.get(event.reply);
      for (const reader of live?.readers ?? []) reader(event);
      for (const reader of this.everything) reader(event);
      if (live && isLast(event)) {
        this.live.delete(event.reply);
        live.end();
      }
    }
  }

  private commit(): PublishedEvent[] {
    const published: PublishedEvent[] = [];
    const pending = [...this.live.values()].filter((live) => live.pending.length > 0);
    this.database.transaction(() => {
      for (const { reply, conversation, lastId, pending: events } of pending)
        events.forEach(({ event, data }, at) => {
          const id = lastId + at + 1;
          const text = JSON.stringify(data);
          const position = this.events.add(reply, id, event, text);
          published.push({ position, reply, conversation, id, event, data: text });
        });
      for (const work of this.along) work();
    })();
    this.along = [];
    for (const live of pending) {
      live.lastId += live.pending.length;
      live.pending = [];
    }
    return published;
  }
}

/** Adds an event to those that wait; text is joined to the text before it. */
function gather(pending: ReplyEvent[], event: ReplyEvent): void {
  const before = pending.at(-1);
  if (before && isText(before) && isText(event) && before.event === event.event)
    before.data = { text: before.data.text + event.data.text };
  else pending.push({ ...event });
}

function isText(event: ReplyEvent): event is Extract<ReplyEvent, { event: "text" | "thought" }> {
  return event.event === "text" || event.event === "thought";
}
