import type { Database } from "./database";

/**
 * Bringing the parts of an index of words (SQLite's FTS5) together, some pages at a time. What is deleted from an index
 * that keeps no texts is noted beside it alone: its words stay in their part until that is brought together with others.
 */

/** The indices that there are. */
type WordIndex = "words" | "passage_words";

/** Pages that one step writes. */
const pagesAtOnce = 16;

/** Brings some parts together where there are enough of them, in a transaction of a few milliseconds; false where there was nothing to do. */
export function mergeSome(database: Database, index: WordIndex): boolean {
  return merge(database, index, pagesAtOnce);
}

/**
 * Brings all parts together, however few they are, so that nothing of what was deleted is left in them: begins with
 * that, or goes on, for a few milliseconds. False where there is nothing more to do.
 * @see https://sqlite.org/fts5.html#the_merge_command
 */
export function mergeAll(database: Database, index: WordIndex, how: "begin" | "go on"): boolean {
  return merge(database, index, how === "begin" ? -pagesAtOnce : pagesAtOnce);
}

function merge(database: Database, index: WordIndex, pages: number): boolean {
  const changes = database.prepare<[], number>("SELECT total_changes()").pluck();
  return database
    .transaction(() => {
      const before = changes.get() as number;
      database.prepare(`INSERT INTO ${index} (${index}, rank) VALUES ('merge', ?)`).run(pages);
      // it counts itself as one
      return (changes.get() as number) - before > 1;
    })
    .immediate();
}
