import { LRUCache } from "lru-cache";
import type { Passage } from "@/core/sources/cutting";
import type { PassagePlace } from "@/core/sources/found";
import { foundText, queryOf } from "@/core/sources/query";
import { fitsOf, type WordedPassage } from "@/core/sources/ranking";
import type { Database } from "../database/database";
import { hashOfPassage } from "../ground/passage-hash";

/** A document as it is cut into passages of a size. */
export interface StoredCutting {
  id: number;
  passages: number;
  /** Of all its passages, as they are estimated for no model in particular. */
  tokens: number;
  /** Whether all of them are there. */
  isWhole: boolean;
}

/** Which cutting of which document. */
export interface CuttingOf {
  hash: string;
  size: number;
  overlap: number;
}

/** A passage as it is kept. */
export interface StoredPassage {
  id: number;
  cutting: number;
  /** Counted from 1 within its document. */
  number: number;
  text: string;
  place: PassagePlace;
}

/** A passage that some terms found. `fit` is the greater the better. */
export type FittingPassage = StoredPassage & { fit: number };

type Row<T extends StoredPassage> = Omit<T, "place"> & { place: string };

const columns = "passages.id, passages.cutting_id AS cutting, passages.number, passages.text, passages.place";

/** Passages that are compared with each other, of all that terms find. */
const mostCompared = 40;
/** Terms of which it is remembered how many passages have them. */
const mostRemembered = 2_000;

/**
 * Passages of documents, and the words by which they are found. The index gives those that come into question, by
 * figures over everything that it holds; these are then put in order by the figures of the cuttings that are looked
 * through alone.
 */
export class PassageStore {
  private readonly sql;
  /** How many passages of which cuttings have a term: a cutting that is whole never changes. */
  private readonly having = new LRUCache<string, number>({ max: mostRemembered });

  constructor(database: Database) {
    this.sql = {
      cutting: database.prepare<[CuttingOf], Omit<StoredCutting, "isWhole"> & { isWhole: number }>(
        `SELECT id, passages, tokens, is_whole AS isWhole FROM cuttings
         WHERE hash = @hash AND size = @size AND overlap = @overlap`,
      ),
      addCutting: database.prepare("INSERT INTO cuttings (hash, size, overlap) VALUES (@hash, @size, @overlap)"),
      leaveCutting: database.prepare("DELETE FROM cuttings WHERE id = ?"),
      // served by the key of cuttings, and passages_by_cutting
      leaveSome: database
        .prepare<[string, number], string>(
          `DELETE FROM passages WHERE id IN (
             SELECT passages.id FROM cuttings JOIN passages ON cutting_id = cuttings.id WHERE cuttings.hash = ? LIMIT ?)
           RETURNING hash`,
        )
        .pluck(),
      leaveCuttings: database.prepare("DELETE FROM cuttings WHERE hash = ?"),
      finish: database.prepare(
        `UPDATE cuttings SET passages = ?, tokens = ?, is_whole = 1,
           length = (SELECT coalesce(sum(length), 0) FROM passages WHERE cutting_id = cuttings.id) WHERE id = ?`,
      ),
      add: database.prepare(
        "INSERT INTO passages (cutting_id, number, text, words, length, place, hash) VALUES (?, ?, ?, ?, ?, ?, ?)",
      ),
      index: database.prepare("INSERT INTO passage_words (rowid, cutting, text) VALUES (?, ?, ?)"),
      find: database.prepare<[string, number], Row<StoredPassage> & WordedPassage>(
        `SELECT ${columns}, passages.words, passages.length
         FROM (SELECT rowid AS id FROM passage_words WHERE passage_words MATCH ? ORDER BY bm25(passage_words, 0, 1) LIMIT ?)
           AS found JOIN passages ON passages.id = found.id ORDER BY passages.id`,
      ),
      place: database
        .prepare<[string, number], number>(
          `SELECT place FROM (SELECT rowid AS id, row_number() OVER (ORDER BY bm25(passage_words, 0, 1), rowid) AS place
             FROM passage_words WHERE passage_words MATCH ?) WHERE id = ?`,
        )
        .pluck(),
      having: database
        .prepare<[string], number>("SELECT count(*) FROM passage_words WHERE passage_words MATCH ?")
        .pluck(),
      size: database.prepare<[string], { passages: number; words: number }>(
        `SELECT sum(passages) AS passages, sum(length) AS words FROM cuttings
         WHERE id IN (SELECT value FROM json_each(?))`,
      ),
      tokens: database
        .prepare<[string], number>(
          "SELECT coalesce(sum(tokens), 0) FROM cuttings WHERE id IN (SELECT value FROM json_each(?))",
        )
        .pluck(),
      byId: database.prepare<[number], Row<StoredPassage>>(`SELECT ${columns} FROM passages WHERE id = ?`),
      // served by passages_by_cutting
      ofCutting: database.prepare<[number], Row<StoredPassage>>(
        `SELECT ${columns} FROM passages WHERE cutting_id = ? ORDER BY number`,
      ),
    };
  }

  cutting(of: CuttingOf): StoredCutting | undefined {
    const row = this.sql.cutting.get(of);
    return row && { ...row, isWhole: row.isWhole === 1 };
  }

  /** Begins a cutting anew, without what was made of it before. @returns its id */
  begin(of: CuttingOf): number {
    const before = this.cutting(of);
    if (before) this.sql.leaveCutting.run(before.id);
    // one that is gone may leave its id behind
    this.having.clear();
    return Number(this.sql.addCutting.run(of).lastInsertRowid);
  }

  /** Lets go of a cutting, with its passages. */
  leave(of: CuttingOf): void {
    const cutting = this.cutting(of);
    if (cutting) this.sql.leaveCutting.run(cutting.id);
    this.having.clear();
  }

  /** Deletes some passages of a document, and gives the hashes of their texts; none once all are gone, and its cuttings with them. */
  leaveSome(hash: string, most: number): string[] {
    this.having.clear();
    const left = this.sql.leaveSome.all(hash, most);
    if (left.length === 0) this.sql.leaveCuttings.run(hash);
    return left;
  }

  /** Adds passages to a cutting. @param first the number of the first of them */
  add(cutting: number, first: number, passages: readonly Passage[]): void {
    for (const [at, { text, ...place }] of passages.entries()) {
      const words = foundText([...place.headings, text].join(" "));
      const length = words === "" ? 0 : words.split(" ").length;
      const hash = hashOfPassage(text, place.headings);
      const { lastInsertRowid } = this.sql.add.run(
        cutting,
        first + at,
        text,
        words,
        length,
        JSON.stringify(place),
        hash,
      );
      this.sql.index.run(lastInsertRowid, nameOf(cutting), words);
    }
  }

  finish(cutting: number, passages: number, tokens: number): void {
    this.sql.finish.run(passages, tokens, cutting);
  }

  /**
   * The passages of some cuttings that terms find, the best first, at most forty.
   * @param terms as `termsOf` gives them
   */
  find(cuttings: readonly number[], terms: readonly string[]): FittingPassage[] {
    if (cuttings.length === 0 || terms.length === 0) return [];
    const found = this.sql.find.all(matchOf(cuttings, terms), mostCompared);
    const size = this.sql.size.get(JSON.stringify(cuttings)) ?? { passages: 0, words: 0 };
    const fits = fitsOf(found, terms, { ...size, having: (term) => this.passagesHaving(cuttings, term) });
    return found
      .map(({ words: _words, length: _length, ...passage }, at) => ({ ...read(passage), fit: fits[at] ?? 0 }))
      .sort((one, other) => other.fit - one.fit || one.id - other.id);
  }

  /** Where a passage stands among all that terms find, from 1; null where they do not find it. */
  rankOf(cuttings: readonly number[], terms: readonly string[], passage: number): number | null {
    if (cuttings.length === 0 || terms.length === 0) return null;
    const at = this.find(cuttings, terms).findIndex(({ id }) => id === passage);
    return at < 0 ? (this.sql.place.get(matchOf(cuttings, terms), passage) ?? null) : at + 1;
  }

  private passagesHaving(cuttings: readonly number[], term: string): number {
    const key = `${term} ${cuttings.join(" ")}`;
    const before = this.having.get(key);
    if (before !== undefined) return before;
    const having = this.sql.having.get(matchOf(cuttings, [term])) ?? 0;
    this.having.set(key, having);
    return having;
  }

  /** How many passages some cuttings have. */
  count(cuttings: readonly number[]): number {
    return this.sql.size.get(JSON.stringify(cuttings))?.passages ?? 0;
  }

  /** Tokens of all passages of some cuttings, as they are estimated for no model in particular. */
  tokens(cuttings: readonly number[]): number {
    return this.sql.tokens.get(JSON.stringify(cuttings)) ?? 0;
  }

  byId(id: number): StoredPassage | undefined {
    const row = this.sql.byId.get(id);
    return row && read(row);
  }

  ofCutting(cutting: number): StoredPassage[] {
    return this.sql.ofCutting.all(cutting).map(read);
  }
}

/** Terms as they are looked for in some cuttings. */
function matchOf(cuttings: readonly number[], terms: readonly string[]): string {
  return `{cutting} : (${cuttings.map(nameOf).join(" OR ")}) AND {text} : (${queryOf(terms)})`;
}

/** What a cutting is called in the index of words. */
function nameOf(cutting: number): string {
  return `c${cutting}`;
}

function read({ place, ...passage }: Row<StoredPassage>): StoredPassage {
  return { ...passage, place: JSON.parse(place) };
}

/** A parameter that has `passages`. */
export interface HasPassages {
  passages: PassageStore;
}
