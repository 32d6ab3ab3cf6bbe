import type { StoredEvent } from "../live/event-store";
import type { ReplyHub } from "../live/hub";

/** Milliseconds between two comments that keep a quiet stream open. */
const quiet = 15_000;
/** Bytes that may wait for a slow reader. */
export const mostWaiting = 512 * 1024;
/** Events that are read from the store at a time. */
const pageSize = 64;
/** Pauses after which a reader that reads nothing is cut off. */
const mostStalled = 4;

/** Where a reader's events come from, in order: first those that are stored, then those to come. */
export interface Source<E extends StoredEvent> {
  /** The stored events after a place, at most so many. */
  after(place: number, count: number): E[];
  placeOf(event: E): number;
  /** Gives events as they come, and how to leave; undefined where no more will. */
  follow(reader: (event: E) => void): (() => void) | undefined;
  /** Has the reading ended when it may go on no longer; returns how to leave. */
  endsWith?(end: () => void): () => void;
  /** Where to go on, and what to say there, where what comes after a place is not stored any more. */
  missed?(place: number): { place: number; text: string } | undefined;
  /** Whether nothing comes after an event. */
  isEnd(event: E): boolean;
  write(event: E): string;
  /** What is said beside the events, as it comes; nobody is told again. */
  aside?(say: (text: string) => void): () => void;
  /** What is written first, when there was nothing to say for a while, and when the server is stopped. */
  opening: string;
  pause: string;
  lastWord: string;
}

/**
 * Feeds one reader: from the store until it has caught up, from the hub after that. One that reads more
 * slowly than events come falls behind, and goes on from the store when it has room again: what waits
 * for it stays small, and nothing is lost in silence: where the store lets go of what comes next, it is told so. A stream that breaks off before its end is not closed in
 * good order, so that its reader knows; it may come back by the last id that it had.
 */
export class Feed<E extends StoredEvent> implements UnderlyingDefaultSource<Uint8Array> {
  private readonly utf8 = new TextEncoder();
  private leave: (() => void) | undefined;
  private leaveHub = () => {};
  private leaveAside = () => {};
  private leaveEnd = () => {};
  private timer: NodeJS.Timeout | undefined;
  private isOver = false;
  private hasGiven = false;
  private stalled = 0;

  /** @param place the place of the last event that the reader has */
  constructor(
    private readonly hub: ReplyHub,
    private readonly source: Source<E>,
    private place: number,
  ) {}

  start(controller: Controller): void {
    this.timer = setInterval(() => this.keepOpen(controller), quiet);
    this.leaveHub = this.hub.whenClosing(() => {
      this.give(controller, this.source.lastWord);
      this.close(controller);
    });
    this.leaveAside = this.source.aside?.((text) => this.give(controller, text)) ?? this.leaveAside;
    this.leaveEnd = this.source.endsWith?.(() => this.breakOff(controller, "its token was revoked")) ?? this.leaveEnd;
    if (this.source.opening !== "") this.give(controller, this.source.opening);
  }

  /** The reader has room. */
  pull(controller: Controller): void {
    this.stalled = 0;
    if (this.leave || this.isOver) return;
    const missed = this.source.missed?.(this.place);
    if (missed) {
      this.place = missed.place;
      this.give(controller, missed.text);
      return;
    }
    for (;;) {
      const page = this.source.after(this.place, pageSize);
      const last = page.at(-1);
      if (!last) break;
      this.place = this.source.placeOf(last);
      this.hasGiven = true;
      const text = page.map(this.source.write).join("");
      this.give(controller, text);
      if (this.source.isEnd(last)) this.close(controller);
      // nothing of a page may be for this reader, and one that was given nothing is not asked for more
      if (text !== "" || this.isOver) return;
    }
    this.leave = this.source.follow((event) => this.take(controller, event));
    if (this.leave) return;
    if (this.hasGiven) this.breakOff(controller, "what was read was deleted");
    else this.close(controller);
  }

  cancel(): void {
    this.end();
  }

  private take(controller: Controller, event: E): void {
    this.place = this.source.placeOf(event);
    this.hasGiven = true;
    this.give(controller, this.source.write(event));
    if (this.source.isEnd(event)) this.close(controller);
    else if ((controller.desiredSize ?? 0) <= 0) {
      this.leave?.();
      this.leave = undefined;
    }
  }

  private keepOpen(controller: Controller): void {
    if ((controller.desiredSize ?? 0) > 0) this.give(controller, this.source.pause);
    else if (++this.stalled >= mostStalled) this.breakOff(controller, "the reader does not read");
  }

  private give(controller: Controller, text: string): void {
    if (text !== "") controller.enqueue(this.utf8.encode(text));
  }

  private close(controller: Controller): void {
    this.end();
    controller.close();
  }

  private breakOff(controller: Controller, why: string): void {
    this.end();
    controller.error(new Error(`The stream was broken off: ${why}.`));
  }

  private end(): void {
    this.isOver = true;
    clearInterval(this.timer);
    this.leave?.();
    this.leaveHub();
    this.leaveAside();
    this.leaveEnd();
  }
}

type Controller = ReadableStreamDefaultController<Uint8Array>;
