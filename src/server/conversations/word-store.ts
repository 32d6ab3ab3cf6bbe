import { type Piece, textOf } from "@/core/conversation/pieces";
import { indexedText } from "@/core/search/words";
import type { Database } from "../database/database";

/** Rows of the index that each conversation has: the messages that can be found in it. */
const rowsEach = 2 ** 20;
/** Characters of a message that are indexed. */
const mostIndexed = 200_000;

/** The words of all messages, for searching: each message once, and what only passes through not at all. */
export class WordStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      place: database.prepare<[string, number], { number: number; indexed: number }>(
        `UPDATE conversations SET indexed = indexed + 1 WHERE id = ? AND is_passing = 0 AND indexed < ?
         RETURNING number, indexed`,
      ),
      number: database.prepare("UPDATE messages SET words_id = ? WHERE id = ?"),
      insert: database.prepare("INSERT INTO words (rowid, text) VALUES (?, ?)"),
      remove: database.prepare("DELETE FROM words WHERE rowid = (SELECT words_id FROM messages WHERE id = ?)"),
      forget: database.prepare("UPDATE messages SET words_id = NULL WHERE id = ?"),
    };
  }

  /** Adds a message that is finished. */
  add(conversation: string, message: string, pieces: readonly Piece[]): void {
    const text = textOf({ pieces });
    if (text.trim() === "") return;
    const place = this.sql.place.get(conversation, rowsEach - 1);
    if (!place) return;
    const row = place.number * rowsEach + place.indexed;
    this.sql.number.run(row, message);
    this.sql.insert.run(row, indexedText(text.slice(0, mostIndexed)));
  }

  /** Takes a message out. */
  remove(message: string): void {
    this.sql.remove.run(message);
    this.sql.forget.run(message);
  }
}
