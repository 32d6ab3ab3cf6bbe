import Sqlite from "better-sqlite3";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { indexedText, matchOf, placesIn, termsOf } from "./terms";

const found = (text: string, query: string) => {
  const terms = termsOf(query);
  return terms ? placesIn(text, terms).map(({ from, to }) => text.slice(from, to)) : undefined;
};

describe("what is searched as one types", () => {
  it.each([
    ["Two bicycles, one Bicycle.", "bicycle", ["bicycles", "Bicycle"]],
    ["Two bicycles, one Bicycle.", "bicycle ", ["Bicycle"]],
    ["Café au lait", "cafe", ["Café"]],
    ["The late boat is late.", '"late boat"', ["late boat"]],
    ["The late boat is late.", "late boat", ["late", "boat", "late"]],
    ["船は八時に出ます", "八時", ["八時"]],
    ["船は八時に出ます", "時八", []],
    ["At 9:40 sharp", "9:40", ["9:40"]],
    ["A b c", "!?", undefined],
    ["", "", undefined],
  ])("in %j, %j marks %j", (text, query, places) => {
    expect(found(text, query)).toEqual(places);
  });

  it("is a query that the index takes, whatever is typed, and that finds what is marked", () => {
    const database = new Sqlite(":memory:");
    database.exec(`CREATE VIRTUAL TABLE words USING fts5 (text, tokenize = "unicode61 remove_diacritics 2")`);
    const insert = database.prepare("INSERT INTO words (rowid, text) VALUES (1, ?)");
    const find = database.prepare("SELECT count(*) FROM words WHERE words MATCH ?").pluck();
    const word = fc.constantFrom("boat", "Boats", "café", "八", "時", "9:40", '"', "a-b", "*", "AND", "(", " ", "NEAR");
    fc.assert(
      fc.property(fc.array(word, { maxLength: 12 }), fc.array(word, { maxLength: 4 }), (texts, query) => {
        database.exec("DELETE FROM words");
        const text = texts.join(" ");
        insert.run(indexedText(text));
        const terms = termsOf(query.join(" "));
        if (!terms) return;
        const isFound = find.get(matchOf(terms)) === 1;
        const { isOpen } = terms;
        const each = terms.terms.map((run, at) => ({ terms: [run], isOpen: isOpen && at === terms.terms.length - 1 }));
        expect(each.every((term) => placesIn(text, term).length > 0)).toBe(isFound);
      }),
      { numRuns: 300 },
    );
    database.close();
  });
});
