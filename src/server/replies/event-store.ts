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
      lastId: database.prepare<[string], { id: number }>(
        "SELECT coalesce(max(id), 0) AS id FROM reply_events WHERE reply_id = ?",
      ),
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
    return this.sql.ofReply.all(reply, after, count);
  }

  /** The id of the last event of a reply; 0 where there is none. */
  lastId(reply: string): number {
    return this.sql.lastId.get(reply)?.id ?? 0;
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
