import { gunzipSync, gzipSync } from "node:zlib";
import type { NumberedEvent, ReplyEvent } from "@/core/reply/events";
import type { Database } from "../database/database";

/** A committed event, with its data as the JSON that goes over the wire. */
export interface PublishedEvent {
  /** Orders the events of all replies. */
  position: number;
  reply: string;
  conversation: string;
  /** Within the reply, from 1. */
  id: number;
  event: ReplyEvent["event"];
  data: string;
}

/** The events that readers of replies get. */
export class EventStore {
  private readonly sql;

  constructor(database: Database) {
    const columns =
      "position, reply_id AS reply, messages.conversation_id AS conversation, reply_events.id AS id, event, data";
    const from = "reply_events JOIN messages ON messages.id = reply_events.reply_id";
    this.sql = {
      insert: database.prepare("INSERT INTO reply_events (reply_id, id, event, data) VALUES (?, ?, ?, ?)"),
      // served by the unique index on (reply_id, id)
      ofReply: database.prepare<[string, number, number], PublishedEvent>(
        `SELECT ${columns} FROM ${from} WHERE reply_id = ? AND reply_events.id > ? ORDER BY reply_events.id LIMIT ?`,
      ),
      afterPosition: database.prepare<[number, number], PublishedEvent>(
        `SELECT ${columns} FROM ${from} WHERE position > ? ORDER BY position LIMIT ?`,
      ),
      lastId: database.prepare<[string, string], { id: number }>(
        `SELECT max(coalesce((SELECT max(id) FROM reply_events WHERE reply_id = ?), 0),
           coalesce((SELECT last_id FROM packed_events WHERE reply_id = ?), 0)) AS id`,
      ),
      packed: database.prepare<[string], { conversation: string; bytes: Buffer }>(
        `SELECT conversation_id AS conversation, bytes FROM packed_events
         JOIN messages ON messages.id = packed_events.reply_id WHERE reply_id = ?`,
      ),
      // served by replies_unpacked
      unpacked: database.prepare<[number, number], { id: string }>(
        `SELECT id FROM messages WHERE role = 'app' AND is_packed = 0 AND created_at < ?
           AND state NOT IN ('waiting', 'arriving') LIMIT ?`,
      ),
      pack: database.prepare("INSERT OR REPLACE INTO packed_events (reply_id, last_id, bytes) VALUES (?, ?, ?)"),
      setPacked: database.prepare("UPDATE messages SET is_packed = 1 WHERE id = ?"),
      drop: database.prepare("DELETE FROM reply_events WHERE reply_id = ?"),
      last: database.prepare<[], { position: number }>(
        "SELECT coalesce(max(position), 0) AS position FROM reply_events",
      ),
    };
  }

  /** Adds an event and gives its position. */
  add(reply: string, id: number, event: string, data: string): number {
    return Number(this.sql.insert.run(reply, id, event, data).lastInsertRowid);
  }

  /** The events of a reply after one of its ids, in order; all of them, or at most so many. */
  ofReply(reply: string, after: number, count = -1): PublishedEvent[] {
    const found = this.sql.ofReply.all(reply, after, count);
    if (found.length > 0) return found;
    const events = this.unpacked(reply).filter(({ id }) => id > after);
    return count < 0 ? events : events.slice(0, count);
  }

  /** The id of the last event of a reply; 0 where there is none. */
  lastId(reply: string): number {
    return this.sql.lastId.get(reply, reply)?.id ?? 0;
  }

  /** Packs the events of some replies that were begun before a moment and have ended; false when none is left. */
  pack(before: number, count: number): boolean {
    const replies = this.sql.unpacked.all(before, count);
    for (const { id: reply } of replies) {
      const events = this.sql.ofReply.all(reply, 0, -1);
      const lines = events.map(({ id, event, data }) => `{"id":${id},"event":"${event}","data":${data}}\n`);
      if (events.length > 0) this.sql.pack.run(reply, events.at(-1)?.id ?? 0, gzipSync(lines.join("")));
      this.sql.drop.run(reply);
      this.sql.setPacked.run(reply);
    }
    return replies.length > 0;
  }

  /** The events of a reply that were packed. They are in nobody's stream any more, and have no position. */
  private unpacked(reply: string): PublishedEvent[] {
    const packed = this.sql.packed.get(reply);
    if (!packed) return [];
    const lines = gunzipSync(packed.bytes).toString("utf8").split("\n").filter(Boolean);
    return lines.map((line) => {
      const { id, event, data } = JSON.parse(line) as NumberedEvent;
      return { position: 0, reply, conversation: packed.conversation, id, event, data: JSON.stringify(data) };
    });
  }

  /** Events of all replies after a position, in order, at most so many. */
  afterPosition(position: number, count: number): PublishedEvent[] {
    return this.sql.afterPosition.all(position, count);
  }

  /** The position of the latest event; 0 when there is none. */
  lastPosition(): number {
    return this.sql.last.get()?.position ?? 0;
  }
}

/** An event as it was before it was written. */
export function numbered({ id, event, data }: PublishedEvent): NumberedEvent {
  return { id, event, data: JSON.parse(data) } as NumberedEvent;
}
