import { gunzipSync, gzipSync } from "node:zlib";
import type { NumberedEvent, ReplyEvent } from "@/core/reply/events";
import type { Database } from "../database/database";

/** An event of a reply as it is stored, with its data as the JSON that goes over the wire. */
export interface StoredEvent {
  reply: string;
  conversation: string;
  /** Within the reply, from 1. */
  id: number;
  event: ReplyEvent["event"];
  data: string;
}

/** A committed event of late, in the order of all of them. */
export interface PublishedEvent extends StoredEvent {
  /** Orders the events of all replies. */
  position: number;
}

/** Events of late that are kept in their order, for tabs that come back. */
export const latestKept = 2_000;

/**
 * The events that readers of replies get. What is said is appended in the order in which it is said, to a list
 * that is kept short; and it is kept by reply, in pages of some dozens, which are written when they are full.
 */
export class EventStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      append: database.prepare("INSERT INTO latest_events (reply_id, id, event, data) VALUES (?, ?, ?, ?)"),
      afterPosition: database.prepare<[number, number], PublishedEvent>(
        `SELECT position, reply_id AS reply, conversation_id AS conversation, latest_events.id AS id, event, data
         FROM latest_events JOIN messages ON messages.id = reply_id WHERE position > ? ORDER BY position LIMIT ?`,
      ),
      last: database.prepare<[], { position: number }>(
        "SELECT position FROM latest_events ORDER BY position DESC LIMIT 1",
      ),
      first: database.prepare<[], { position: number }>("SELECT position FROM latest_events ORDER BY position LIMIT 1"),
      drop: database.prepare(
        "DELETE FROM latest_events WHERE position IN (SELECT position FROM latest_events WHERE position < ? LIMIT ?)",
      ),
      // a row stays, since positions are counted on from it
      forget: database.prepare(
        "UPDATE latest_events SET data = '' WHERE data <> '' AND reply_id NOT IN (SELECT id FROM messages)",
      ),
      addPage: database.prepare("INSERT INTO event_pages (reply_id, last_id, lines) VALUES (?, ?, ?)"),
      pages: database.prepare<[string, number], { lines: string }>(
        "SELECT lines FROM event_pages WHERE reply_id = ? AND last_id > ? ORDER BY last_id",
      ),
      packed: database.prepare<[string, number], { bytes: Buffer }>(
        "SELECT bytes FROM packed_events WHERE reply_id = ? AND last_id > ?",
      ),
      conversation: database.prepare<[string], { id: string }>(
        "SELECT conversation_id AS id FROM messages WHERE id = ?",
      ),
      lastId: database.prepare<[string, string], { id: number }>(
        `SELECT max(coalesce((SELECT max(last_id) FROM event_pages WHERE reply_id = ?), 0),
           coalesce((SELECT last_id FROM packed_events WHERE reply_id = ?), 0)) AS id`,
      ),
      // served by replies_unpacked
      unpacked: database.prepare<[number, number], { id: string }>(
        `SELECT id FROM messages WHERE role = 'app' AND is_packed = 0 AND created_at < ?
           AND state NOT IN ('waiting', 'arriving') LIMIT ?`,
      ),
      pack: database.prepare("INSERT OR REPLACE INTO packed_events (reply_id, last_id, bytes) VALUES (?, ?, ?)"),
      setPacked: database.prepare("UPDATE messages SET is_packed = 1 WHERE id = ?"),
      dropPages: database.prepare("DELETE FROM event_pages WHERE reply_id = ?"),
    };
  }

  /** Appends an event to those of late, and gives its position. It is kept for good once it is in a page. */
  append({ reply, id, event, data }: Omit<StoredEvent, "conversation">): number {
    return Number(this.sql.append.run(reply, id, event, data).lastInsertRowid);
  }

  /** Keeps events of a reply that follow one another. */
  addPage(reply: string, events: readonly Pick<StoredEvent, "id" | "event" | "data">[]): void {
    const lines = events.map(({ id, event, data }) => `{"id":${id},"event":"${event}","data":${data}}\n`);
    const last = events.at(-1);
    if (last) this.sql.addPage.run(reply, last.id, lines.join(""));
  }

  /** The kept events of a reply after one of its ids, in order; all of them, or at most so many. */
  ofReply(reply: string, after: number, count = Number.POSITIVE_INFINITY): StoredEvent[] {
    const conversation = this.sql.conversation.get(reply)?.id;
    if (conversation === undefined) return [];
    const found: StoredEvent[] = [];
    for (const lines of this.linesOf(reply, after))
      for (const line of lines.split("\n")) {
        if (line === "") continue;
        if (found.length >= count) return found;
        const { id, event, data } = JSON.parse(line) as NumberedEvent;
        if (id > after) found.push({ reply, conversation, id, event, data: JSON.stringify(data) });
      }
    return found;
  }

  /** The id of the last kept event of a reply; 0 where there is none. */
  lastId(reply: string): number {
    return this.sql.lastId.get(reply, reply)?.id ?? 0;
  }

  /** Events of all replies after a position, in order, at most so many. */
  afterPosition(position: number, count: number): PublishedEvent[] {
    return this.sql.afterPosition.all(position, count);
  }

  /** The position of the latest event; 0 when there is none. */
  lastPosition(): number {
    return this.sql.last.get()?.position ?? 0;
  }

  /** The position of the earliest event that is still kept in order; 0 when there is none. */
  firstPosition(): number {
    return this.sql.first.get()?.position ?? 0;
  }

  /** Lets go of the earliest of what was said of late: at most so many, all before a position. */
  dropBefore(position: number, count: number): void {
    this.sql.drop.run(Math.min(position, this.lastPosition() - latestKept), count);
  }

  /** Lets go of what was said of late in replies that were deleted. */
  forgetDeleted(): void {
    this.sql.forget.run();
  }

  /** Packs the events of some replies that were begun before a moment and have ended; false when none is left. */
  pack(before: number, count: number): boolean {
    const replies = this.sql.unpacked.all(before, count);
    for (const { id: reply } of replies) {
      const lines = this.sql.pages.all(reply, 0).map((page) => page.lines);
      if (lines.length > 0) this.sql.pack.run(reply, this.lastId(reply), gzipSync(lines.join("")));
      this.sql.dropPages.run(reply);
      this.sql.setPacked.run(reply);
    }
    return replies.length > 0;
  }

  /** The lines of a reply's events that hold what comes after one of its ids, as they are kept. */
  private *linesOf(reply: string, after: number): Generator<string> {
    const packed = this.sql.packed.get(reply, after);
    if (packed) yield gunzipSync(packed.bytes).toString("utf8");
    else for (const { lines } of this.sql.pages.iterate(reply, after)) yield lines;
  }
}

/** An event as it was before it was written. */
export function numbered({ id, event, data }: StoredEvent): NumberedEvent {
  return { id, event, data: JSON.parse(data) } as NumberedEvent;
}

/** A parameter that has `events`. */
export interface HasEvents {
  events: EventStore;
}
