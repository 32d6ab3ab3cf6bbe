import type { Database } from "../database/database";

/** Conversations in which the same was said that are looked through. */
const mostAlike = 20;

/** Histories that callers sent whole, by a hash of them. */
export class HistoryStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      add: database.prepare("INSERT OR IGNORE INTO sent_histories (visitor_id, hash, message_id) VALUES (?, ?, ?)"),
      find: database.prepare<[string, string, number], { message_id: string }>(
        "SELECT message_id FROM sent_histories WHERE visitor_id = ? AND hash = ? ORDER BY message_id DESC LIMIT ?",
      ),
    };
  }

  /** Notes that a history of a visitor ends with a message. */
  add(visitor: string, hash: string, message: string): void {
    this.sql.add.run(visitor, hash, message);
  }

  /** The messages that such a history of a visitor ends with, the latest first. */
  find(visitor: string, hash: string): string[] {
    return this.sql.find.all(visitor, hash, mostAlike).map(({ message_id }) => message_id);
  }
}

/** A parameter that has `histories`. */
export interface HasHistories {
  histories: HistoryStore;
}
