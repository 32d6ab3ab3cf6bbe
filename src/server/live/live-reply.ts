import type { Problem } from "@/core/problem/problem";
import { isLast, type LastEvent, type ReplyEvent } from "@/core/reply/events";
import type { Work } from "../database/work";
import type { PublishedEvent, StoredEvent } from "./event-store";

/** Events of a reply that are kept together. */
export const pageSize = 64;

/** Gets committed events, in order. */
export type Reader = (event: PublishedEvent) => void;

/** A reply as its making gives it to the hub. */
export interface Begun {
  reply: string;
  conversation: string;
  /** Ends the making early, with what the reply then ends with; resolves when the provider's connection is closed. */
  halt: (last: LastEvent) => Promise<void>;
  /** Writes that the reply failed, in a transaction, where its own end can't be written. */
  fail: (failure: Problem) => void;
}

/** A reply that is being made. */
export interface LiveReply extends Begun {
  /** The id of its last committed event. */
  lastId: number;
  /** Its committed events that do not fill a page yet. */
  page: PublishedEvent[];
  pending: ReplyEvent[];
  along: Work[];
  /** The kinds of events that were written at least once. */
  shown: Set<string>;
  readers: Set<Reader>;
  ended: Promise<void>;
  end: () => void;
}

/** A reply of which nothing has come yet. */
export function liveReply(begun: Begun): LiveReply {
  let end = () => {};
  const ended = new Promise<void>((resolve) => {
    end = resolve;
  });
  return {
    ...begun,
    lastId: 0,
    page: [],
    pending: [],
    along: [],
    shown: new Set(),
    readers: new Set(),
    ended,
    end,
  };
}

/** Adds an event to those that wait; text is joined to the text before it, and data takes the place of data that waits. */
export function gather(pending: ReplyEvent[], event: ReplyEvent): void {
  const waiting = event.event === "data" ? pending.findIndex((each) => each.event === "data") : -1;
  if (waiting >= 0) {
    pending[waiting] = { ...event };
    return;
  }
  const before = pending.at(-1);
  if (before && isText(before) && isText(event) && before.event === event.event)
    before.data = { text: before.data.text + event.data.text };
  else pending.push({ ...event });
}

function isText(event: ReplyEvent): event is Extract<ReplyEvent, { event: "text" | "thought" }> {
  return event.event === "text" || event.event === "thought";
}

/** Whether an event may wait for those that come after it. */
export function isGathered(event: ReplyEvent): boolean {
  return isText(event) || event.event === "data";
}

/** Whether a page is full with some more events, or with the last one there is. */
export function isFull(page: readonly StoredEvent[], more: readonly StoredEvent[]): boolean {
  const last = more.at(-1);
  return page.length + more.length >= pageSize || (last !== undefined && isLast(last));
}

/** Takes note that events of a reply were committed. */
export function noteWritten(live: LiveReply, said: readonly PublishedEvent[]): void {
  if (isFull(live.page, said)) live.page = [];
  else live.page.push(...said);
  live.lastId += said.length;
  live.pending = [];
  live.along = [];
}
