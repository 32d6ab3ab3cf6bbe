import Sqlite from "better-sqlite3";
import { describe, expect, it } from "vitest";
import { foundText, queryOf, termsOf } from "./query";

const passages = [
  "A bicycle costs €2.00 each way and needs a place.",
  "Dogs travel free, on the lead, on the car deck.",
  "Tickets are refunded in full until 24 hours before the sailing.",
  "Kinderwagen fahren kostenlos mit.",
  "渡し船は九時四十分に出ます。",
];

/** The passages that a message finds, the best first. */
function found(message: string): string[] {
  const database = new Sqlite(":memory:");
  database.exec("CREATE VIRTUAL TABLE passages USING fts5(text, tokenize = 'unicode61 remove_diacritics 2')");
  for (const text of passages) database.prepare("INSERT INTO passages (text) VALUES (?)").run(foundText(text));
  const terms = termsOf(message);
  const rows =
    terms.length === 0
      ? []
      : database
          .prepare<[string], number>("SELECT rowid FROM passages WHERE passages MATCH ? ORDER BY bm25(passages)")
          .pluck()
          .all(queryOf(terms));
  database.close();
  return rows.map((row) => passages[row - 1] ?? "");
}

describe("a message looks for", () => {
  it.each([
    ["What do bicycles cost?", passages[0]],
    ["Can my dog come along?", passages[1]],
    ["Do I get a refund for my ticket?", passages[2]],
    ["Was kostet ein Kinderwagen?", passages[3]],
    ["船は何時に出ますか", passages[4]],
    ["KINDERWÄGEN?", passages[3]],
  ])("%j", (message, best) => {
    expect(found(message)[0]).toBe(best);
  });

  it("nothing where it has no word, and nothing that the index would take for a command", () => {
    expect(termsOf("?! …")).toEqual([]);
    expect(found('"dogs" AND (NOT free) NEAR * ^')).toEqual([passages[1]]);
    // words that say nothing are looked for where there are no others
    expect(termsOf("what is it")).toEqual(["what", "is", "it"]);
  });
});
