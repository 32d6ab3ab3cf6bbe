import type { Passage } from "@/core/sources/cutting";
import type { PassagePlace } from "@/core/sources/found";
import { foundText } from "@/core/sources/query";
import type { Database } from "../database/database";

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

/** A passage that a query found; the lower the score, the better. */
export type ScoredPassage = StoredPassage & { score: number };

type Row<T extends StoredPassage> = Omit<T, "place"> & { place: string };

const columns = "passages.id, passages.cutting_id AS cutting, passages.number, passages.text, passages.place";

/** Passages of documents, and the words by which they are found. */
export class PassageStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      cutting: database.prepare<[CuttingOf], Omit<StoredCutting, "isWhole"> & { isWhole: number }>(
        `SELECT id, passages, tokens, is_whole AS isWhole FROM cuttings
         WHERE hash = @hash AND size = @size AND overlap = @overlap`,
      ),
      addCutting: database.prepare("INSERT INTO cuttings (hash, size, overlap) VALUES (@hash, @size, @overlap)"),
      leaveCutting: database.prepare("DELETE FROM cuttings WHERE id = ?"),
      finish: database.prepare("UPDATE cuttings SET passages = ?, tokens = ?, is_whole = 1 WHERE id = ?"),
      add: database.prepare("INSERT INTO passages (cutting_id, number, text, place) VALUES (?, ?, ?, ?)"),
      index: database.prepare("INSERT INTO passage_words (rowid, cutting, text) VALUES (?, ?, ?)"),
      find: database.prepare<[string, number], Row<ScoredPassage>>(
        `SELECT ${columns}, bm25(passage_words, 0, 1) AS score
         FROM passage_words JOIN passages ON passages.id = passage_words.rowid
         WHERE passage_words MATCH ? ORDER BY score, passages.id LIMIT ?`,
      ),
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
    return Number(this.sql.addCutting.run(of).lastInsertRowid);
  }

  /** Adds passages to a cutting. @param first the number of the first of them */
  add(cutting: number, first: number, passages: readonly Passage[]): void {
    for (const [at, { text, ...place }] of passages.entries()) {
      const { lastInsertRowid } = this.sql.add.run(cutting, first + at, text, JSON.stringify(place));
      const words = [...place.headings, text].map(foundText).join(" ");
      this.sql.index.run(lastInsertRowid, termOf(cutting), words);
    }
  }

  finish(cutting: number, passages: number, tokens: number): void {
    this.sql.finish.run(passages, tokens, cutting);
  }

  /**
   * The passages of some cuttings that a query finds, the best first (BM25).
   * @param query of FTS5, over `foundText`
   */
  find(cuttings: readonly number[], query: string, most: number): ScoredPassage[] {
    if (cuttings.length === 0) return [];
    const match = `{cutting} : (${cuttings.map(termOf).join(" OR ")}) AND {text} : (${query})`;
    return this.sql.find.all(match, most).map(read);
  }

  byId(id: number): StoredPassage | undefined {
    const row = this.sql.byId.get(id);
    return row && read(row);
  }

  ofCutting(cutting: number): StoredPassage[] {
    return this.sql.ofCutting.all(cutting).map(read);
  }
}

/** What a cutting is called in the index of words. */
function termOf(cutting: number): string {
  return `c${cutting}`;
}

function read<T extends StoredPassage>(row: Row<T>): T {
  return { ...row, place: JSON.parse(row.place) } as unknown as T;
}

/** A parameter that has `passages`. */
export interface HasPassages {
  passages: PassageStore;
}
