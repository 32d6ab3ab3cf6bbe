import { type Piece, wordsOf } from "@/core/conversation/pieces";
import { indexedText } from "@/core/search/terms";
import type { Database } from "../database/database";
import { mergeSome } from "../database/word-index";

/** Rows of the index that each conversation has: the messages that can be found in it. */
const rowsEach = 2 ** 20;
/** Characters of a message that are indexed. */
const mostIndexed = 200_000;

/** The words of all messages, for searching: each message once, and what only passes through not at all. */
export class WordStore {
  private readonly sql;
  /** Whose words are added after all of them. */
  private waiting: { row: number; message: string; text: string }[] | undefined;

  constructor(private readonly database: Database) {
    this.sql = {
      place: database.prepare<[string, number], { number: number; indexed: number }>(
        `UPDATE conversations SET indexed = indexed + 1 WHERE id = ? AND unlisted = 0 AND indexed < ?
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
    const text = wordsOf({ pieces });
    if (text.trim() === "") return;
    const place = this.sql.place.get(conversation, rowsEach - 1);
    if (!place) return;
    const row = place.number * rowsEach + place.indexed;
    this.sql.number.run(row, message);
    if (this.waiting) this.waiting.push({ row, message, text });
    else this.insert({ row, text });
  }

  /** Adds the words of all that is finished in `work` after it: with other statements between them the index would write a part of its own for each. */
  together(work: () => void): void {
    this.waiting = [];
    try {
      work();
      for (const words of this.waiting) this.insert(words);
    } finally {
      this.waiting = undefined;
    }
  }

  /** Brings some parts of the index together, in a transaction of a few milliseconds. @returns whether there was something to do */
  merge(): boolean {
    return mergeSome(this.database, "words");
  }

  /** Takes a message out. */
  remove(message: string): void {
    this.waiting = this.waiting?.filter((words) => words.message !== message);
    this.sql.remove.run(message);
    this.sql.forget.run(message);
  }

  private insert({ row, text }: { row: number; text: string }): void {
    this.sql.insert.run(row, indexedText(text.slice(0, mostIndexed)));
  }
}
