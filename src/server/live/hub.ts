import type { Logger } from "pino";
import { type Problem, problem } from "@/core/problem/problem";
import { isLast, type LastEvent, type ReplyEvent } from "@/core/reply/events";
import { emptyReply, fold, type Reply } from "@/core/reply/reply";
import { type Database, waiting } from "../database/database";
import { isHeld, storageProblem } from "../database/storage";
import type { Work } from "../database/work";
import { Refusal } from "../ground/refusal";
import { type EventStore, numbered, type PublishedEvent, type StoredEvent } from "./event-store";
import {
  type Begun,
  gather,
  isFull,
  isGathered,
  type LiveReply,
  liveReply,
  noteWritten,
  pageSize,
  type Reader,
} from "./live-reply";

/**
 * Milliseconds between two writes of the text that comes in: a little more than the 50 at which much of it comes, so
 * that what is late by a moment is still in the write it belongs to, not a whole one later.
 */
const tick = 55;
/** Live replies at once from which on all that they say is gathered, ends too: one write for all of them. */
const many = 16;
/** Milliseconds that a write waits for text that may come just then. */
const slack = 10;
/** Events of late that are let go of, at most, for each page that is written. */
const mostDropped = 4 * pageSize;
/** Milliseconds until a write is tried again where the data folder can't be written. */
const patience = 1000;
/** Milliseconds until it is where another connection is writing just then, and for how long one may be at it. */
const again = 2;
const mostHeld = 2000;

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

/**
 * Carries the events of all replies from where they are made to whoever reads them. It commits
 * before it publishes: an event that any reader gets is in the database. The first text of a reply
 * goes at once; after that text is gathered, and all live replies are written in one transaction a
 * tick. Work that belongs to the same moment is committed along. A reply whose rows can't be written
 * ends by itself as a problem; while the data folder can't be written at all, everything waits.
 */
export class ReplyHub {
  private readonly live = new Map<string, LiveReply>();
  private readonly everything = new Set<Reader>();
  private timer: NodeJS.Timeout | undefined;
  private lastFlush = 0;
  /** Since when another connection keeps what is due from being written. */
  private heldSince: number | undefined;
  private failure: Problem | undefined;
  private readonly onClosing = new Set<() => void>();
  /** Called when the data folder can't be written. */
  private readonly onFailure = new Set<(failure: Problem) => void>();

  constructor(
    private readonly database: Database,
    private readonly events: EventStore,
    private readonly log: Logger,
  ) {}

  /** Why nothing can be written just now; undefined while all is well. */
  get problem(): Problem | undefined {
    return this.failure;
  }

  /** The replies that are being made. */
  get underWay(): string[] {
    return [...this.live.keys()];
  }

  isLive(reply: string): boolean {
    return this.live.has(reply);
  }

  /** Begins a reply. */
  begin(begun: Begun): void {
    this.live.set(begun.reply, liveReply(begun));
  }

  /**
   * Takes events of a live reply; those given together are written together. An end or a problem
   * is the last. Text and data are gathered once some was shown; all else is written at once, unless many replies are live.
   */
  publish(reply: string, ...events: ReplyEvent[]): void {
    const live = this.live.get(reply);
    if (!live) return;
    for (const event of events) gather(live.pending, event);
    const isFurther = events.every((event) => isGathered(event) && live.shown.has(event.event));
    const canWait = isFurther || this.live.size >= many;
    for (const { event } of events) live.shown.add(event);
    if (canWait && performance.now() < this.lastFlush + tick) this.flushSoon();
    else this.flush();
  }

  /** Has work of a reply done in the transaction of its next write; alone, where the reply has ended. */
  commitAlong(reply: string, work: Work): void {
    const live = this.live.get(reply);
    if (live) {
      live.along.push(work);
      this.flushSoon();
      return;
    }
    try {
      this.database.transaction(work).immediate()?.();
    } catch (error) {
      this.log.error({ error, reply }, "what was left of a reply could not be written");
    }
  }

  /** Resolves when all that a reply has said so far is committed; at once where it has ended. */
  settled(reply: string): Promise<void> {
    if (!this.live.has(reply)) return Promise.resolve();
    return new Promise((resolve) => {
      this.commitAlong(reply, () => resolve);
      this.flush();
    });
  }

  /** How a live reply stands, with the id of its last committed event. */
  standing(reply: string): (Reply & { cursor: number }) | undefined {
    const live = this.live.get(reply);
    if (!live) return undefined;
    this.flush();
    return { ...this.eventsOf(reply).map(numbered).reduce(fold, emptyReply), cursor: live.lastId };
  }

  /** The committed events of a reply after one of its ids, in order; all of them, or at most so many. */
  eventsOf(reply: string, after = 0, count = Number.POSITIVE_INFINITY): StoredEvent[] {
    const kept = this.events.ofReply(reply, after, count);
    const further = this.live.get(reply)?.page.filter(({ id }) => id > after) ?? [];
    return [...kept, ...further].slice(0, count);
  }

  /** Gives a reader the events of a live reply from now on; returns how to leave, or undefined where no more will come. */
  follow(reply: string, reader: Reader): (() => void) | undefined {
    const live = this.live.get(reply);
    live?.readers.add(reader);
    return live && (() => void live.readers.delete(reader));
  }

  /** Gives a reader the events of all replies from now on; returns how to leave. */
  followAll(reader: Reader): () => void {
    this.everything.add(reader);
    return () => void this.everything.delete(reader);
  }

  /** Has something done when the server is being stopped; returns how to take that back. */
  whenClosing(farewell: () => void): () => void {
    this.onClosing.add(farewell);
    return () => void this.onClosing.delete(farewell);
  }

  /** Sends every reader away, since the server is being stopped. */
  sendAway(): void {
    for (const farewell of [...this.onClosing]) farewell();
  }

  /**
   * Stops a reply and waits until it has ended; does nothing to one that has.
   * @throws {Refusal} `no-storage` where its end can't be written
   */
  async stop(reply: string): Promise<void> {
    const live = this.live.get(reply);
    if (!live) return;
    await live.halt(stopped);
    await this.ended(reply);
  }

  /** Waits until no reply is being made, for so many milliseconds at most; then interrupts those that are left. */
  async emptied(patience: number): Promise<void> {
    const all = () => Promise.allSettled(this.underWay.map((reply) => this.ended(reply)));
    await within(all(), patience);
    const last = {
      event: "problem",
      data: problem("interrupted", "Unruly Finch was stopped while this reply was arriving."),
    } as const;
    await within(Promise.allSettled([...this.live.values()].map((live) => live.halt(last))), patience);
    await within(all(), patience);
    this.flush(mostHeld);
    clearTimeout(this.timer);
  }

  /**
   * Resolves when a reply has ended; at once for one that is not live.
   * @throws {Refusal} `no-storage` where its end can't be written
   */
  async ended(reply: string): Promise<void> {
    const live = this.live.get(reply);
    if (!live) return;
    let failed = (_failure: Problem) => {};
    const failing = new Promise<never>((_resolve, reject) => {
      failed = (failure) => reject(new Refusal(failure, { reply }));
    });
    if (this.failure) failed(this.failure);
    this.onFailure.add(failed);
    try {
      await Promise.race([live.ended, failing]);
    } finally {
      this.onFailure.delete(failed);
    }
  }

  /** Milliseconds until other writes are in nobody's way: not while text is about to be written within `soon` milliseconds. */
  untilCalm(soon: number): number {
    if (this.heldSince !== undefined) return again;
    const since = performance.now() - this.lastFlush;
    const isAboutTo = this.live.size > 0 && since > tick - soon && since < tick + slack;
    return isAboutTo ? tick + slack - since : 0;
  }

  /** Writes a tick after the last write. Text that comes just then writes by itself, which saves waking up twice. */
  private flushSoon(): void {
    if (this.timer) return;
    const due = Math.max(this.lastFlush + tick - performance.now(), 0);
    this.timer = setTimeout(() => this.flush(), due + slack);
  }

  /**
   * Writes what is pending, and tells it to the readers. Nothing is lost when a write fails: what is pending stays so.
   * @param wait milliseconds that everything stands for another connection to end its writing; with none it is tried
   *   again soon, and all else goes on
   */
  private flush(wait = 0): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.lastFlush = performance.now();
    const due = [...this.live.values()].filter(({ pending, along }) => pending.length > 0 || along.length > 0);
    if (due.length === 0) {
      this.heldSince = undefined;
      return;
    }
    for (const event of this.committed(due, wait)) {
      const live = this.live.get(event.reply);
      if (live) this.tell(live, event);
    }
  }

  /** Commits all that is due together, or each reply by itself where one of them can't be written. */
  private committed(due: LiveReply[], wait: number): PublishedEvent[] {
    try {
      const published = waiting(this.database, wait, () => this.commit(due));
      this.failure = undefined;
      this.heldSince = undefined;
      return published;
    } catch (error) {
      if (!isHeld(error)) this.heldSince = undefined;
      else if (this.isHeldForNow()) return [];
      const failure = storageProblem(error);
      if (failure) return this.waitFor(failure, error);
      return due.length === 1
        ? this.giveUp(due[0] as LiveReply, error)
        : due.flatMap((live) => this.committed([live], wait));
    }
  }

  /** Whether another connection has been writing for a moment only; it is tried again then. */
  private isHeldForNow(): boolean {
    this.heldSince ??= performance.now();
    if (performance.now() > this.heldSince + mostHeld) return false;
    this.timer ??= setTimeout(() => this.flush(), again);
    return true;
  }

  private waitFor(failure: Problem, error: unknown): [] {
    if (!this.failure) this.log.error({ error }, "replies can't be written; trying again every second");
    this.failure = failure;
    for (const tell of this.onFailure) tell(failure);
    this.timer ??= setTimeout(() => this.flush(), patience);
    return [];
  }

  private commit(due: LiveReply[]): PublishedEvent[] {
    const published: PublishedEvent[] = [];
    const done: { live: LiveReply; said: PublishedEvent[]; after: () => void }[] = [];
    this.database
      .transaction(() => {
        let pages = 0;
        for (const live of due) {
          const said = this.append(live);
          published.push(...said);
          if (isFull(live.page, said)) {
            this.events.addPage(live.reply, [...live.page, ...said]);
            pages += 1;
          }
          done.push({ live, said, after: () => noteWritten(live, said) });
          for (const work of live.along) {
            const after = work();
            if (after) done.push({ live, said, after });
          }
        }
        if (pages > 0) this.events.dropBefore(this.firstUnkept(), mostDropped * pages);
      })
      .immediate();
    for (const each of done) this.doAfter(each);
    return published;
  }

  /**
   * Does what follows a commit. What was committed is not committed again where that fails: the reply ends by itself,
   * unless its end is among what was written.
   */
  private doAfter({ live, said, after }: { live: LiveReply; said: PublishedEvent[]; after: () => void }): void {
    try {
      after();
    } catch (error) {
      const { reply } = live;
      if (said.some(isLast)) this.log.error({ error, reply }, "what follows the end of a reply failed");
      // readers get what was committed first
      else queueMicrotask(() => this.live.get(reply) === live && this.giveUp(live, error));
    }
  }

  /** Writes what a reply has to say. */
  private append({ reply, conversation, lastId, pending }: LiveReply): PublishedEvent[] {
    return pending.map((each, at) => {
      const event = { reply, conversation, id: lastId + at + 1, event: each.event, data: JSON.stringify(each.data) };
      return { ...event, position: this.events.append(event) };
    });
  }

  /** The position of the first event that is in no page yet. */
  private firstUnkept(): number {
    let first = Number.POSITIVE_INFINITY;
    for (const { page } of this.live.values()) first = Math.min(first, page[0]?.position ?? first);
    return first;
  }

  /** Ends a reply whose rows can't be written: as a problem, which is stored where that can be done. */
  private giveUp(live: LiveReply, error: unknown): [] {
    const { reply, conversation } = live;
    this.live.delete(reply);
    this.log.error({ error, reply }, "a reply could not be written, and was ended");
    const failure = problem("internal", "The reply could not be stored, and was ended; the terminal says why.");
    const data = JSON.stringify(failure);
    const last = { reply, conversation, id: live.lastId + 1, event: "problem", data } as const;
    let position = this.events.lastPosition();
    try {
      this.database
        .transaction(() => {
          position = this.events.append(last);
          this.events.addPage(reply, [...live.page, last]);
          live.fail(failure);
        })
        .immediate();
    } catch (second) {
      // its row is gone: whoever still reads is told all the same
      this.log.error({ error: second, reply }, "nor could its end be written");
    }
    this.tell(live, { ...last, position });
    live
      .halt({ event: "problem", data: failure })
      .catch((error) => this.log.error({ error, reply }, "a reply that was ended could not be halted"));
    return [];
  }

  private tell(live: LiveReply, event: PublishedEvent): void {
    for (const reader of [...live.readers, ...this.everything])
      try {
        reader(event);
      } catch (error) {
        this.log.error({ error, reply: event.reply }, "a reader of a reply failed, and gets no more");
        live.readers.delete(reader);
        this.everything.delete(reader);
      }
    if (!isLast(event)) return;
    this.live.delete(event.reply);
    live.end();
  }
}

/** Waits for something, but no longer than so many milliseconds. */
async function within(work: Promise<unknown>, patience: number): Promise<void> {
  let timer: NodeJS.Timeout | undefined;
  await Promise.race([
    work,
    new Promise((resolve) => {
      timer = setTimeout(resolve, patience);
    }),
  ]);
  clearTimeout(timer);
}

/** A parameter that has `hub`. */
export interface HasHub {
  hub: ReplyHub;
}
