import { LRUCache } from "lru-cache";
import type { Matrix, Near } from "@/core/sources/meaning";
import type { Database } from "../database/database";

/** A model that makes vectors. */
export interface VectorModel {
  /** The lasting name of its provider. */
  provider: string;
  model: string;
}

/** What is known of the vectors that a model makes. */
export interface VectorSpace extends VectorModel {
  id: number;
  /** Numbers of one vector. */
  length: number;
  /** That of the known text. */
  known: Float32Array;
}

/** A passage whose vector is wanted. */
export interface WantedPassage {
  hash: string;
  text: string;
  headings: string[];
}

/** What is looked for by meaning: in which vectors, of which cuttings, and by that of a question. */
export interface NearestInput {
  space: Pick<VectorSpace, "id" | "length">;
  cuttings: readonly number[];
  query: Float32Array;
  most: number;
}

/** What is nearest, and how many passages have a vector and were looked at. */
export interface Nearest {
  near: Near[];
  looked: number;
}

type SpaceRow = Omit<VectorSpace, "known"> & { known: Buffer };

/** Vectors of all passages of a cutting that are kept in memory, by their bytes. */
const mostBytes = 256 * 1024 * 1024;

/** Vectors by the model that made them and the hash of their text. */
export class VectorStore {
  private readonly sql;
  private readonly matrices = new LRUCache<string, Matrix>({
    maxSize: mostBytes,
    sizeCalculation: ({ numbers }) => Math.max(numbers.byteLength, 1),
  });

  constructor(private readonly database: Database) {
    this.sql = {
      space: database.prepare<[VectorModel], SpaceRow>(
        "SELECT id, provider, model, length, known FROM vector_spaces WHERE provider = @provider AND model = @model",
      ),
      addSpace: database.prepare(
        "INSERT INTO vector_spaces (provider, model, length, known) VALUES (@provider, @model, @length, @known)",
      ),
      dropSpace: database.prepare("DELETE FROM vector_spaces WHERE provider = @provider AND model = @model"),
      // a space may be dropped while vectors for it are under way, and a passage forgotten
      add: database.prepare(
        `INSERT OR IGNORE INTO vectors (space_id, hash, vector)
         SELECT id, @hash, @vector FROM vector_spaces
         WHERE id = @space AND EXISTS (SELECT 1 FROM passages WHERE passages.hash = @hash)`,
      ),
      // served by passages_by_cutting, and the key of vectors
      missing: database.prepare<[string, number, number], { hash: string; text: string; place: string }>(
        `SELECT hash, min(text) AS text, min(place) AS place FROM passages
         WHERE cutting_id IN (SELECT value FROM json_each(?))
           AND NOT EXISTS (SELECT 1 FROM vectors WHERE space_id = ? AND vectors.hash = passages.hash)
         GROUP BY hash ORDER BY min(id) LIMIT ?`,
      ),
      counts: database.prepare<[number, string], { passages: number; made: number }>(
        `SELECT count(*) AS passages, count(vectors.hash) AS made FROM passages
         LEFT JOIN vectors ON space_id = ? AND vectors.hash = passages.hash
         WHERE cutting_id IN (SELECT value FROM json_each(?))`,
      ),
      rows: database.prepare<[number, number], { id: number; vector: Buffer }>(
        `SELECT passages.id, vectors.vector FROM passages JOIN vectors ON space_id = ? AND vectors.hash = passages.hash
         WHERE cutting_id = ? ORDER BY passages.number`,
      ),
      // ids of cuttings and of passages may be given again: these together say which passages they are
      stands: database.prepare<[{ cutting: number }], { passages: number; stands: string }>(
        `SELECT passages, hash || ' ' || size || ' ' || overlap || ' ' ||
           (SELECT id FROM passages WHERE cutting_id = @cutting ORDER BY number LIMIT 1) || ' ' ||
           (SELECT id FROM passages WHERE cutting_id = @cutting ORDER BY number DESC LIMIT 1) AS stands
         FROM cuttings WHERE id = @cutting`,
      ),
      // served by passages_by_hash
      leave: database.prepare(
        `DELETE FROM vectors WHERE space_id IN (SELECT id FROM vector_spaces)
           AND hash IN (SELECT value FROM json_each(?) WHERE NOT EXISTS (SELECT 1 FROM passages WHERE passages.hash = value))`,
      ),
      sweep: database.prepare(
        `DELETE FROM vectors WHERE (space_id, hash) IN (
           SELECT space_id, hash FROM vectors
           WHERE NOT EXISTS (SELECT 1 FROM passages WHERE passages.hash = vectors.hash) LIMIT ?)`,
      ),
    };
  }

  space(of: VectorModel): VectorSpace | undefined {
    const row = this.sql.space.get(of);
    return row && { ...row, known: numbersIn(row.known) };
  }

  /** Begins a space, with the vector of the known text. */
  begin(of: VectorModel, known: Float32Array): VectorSpace {
    this.sql.addSpace.run({ ...of, length: known.length, known: bytesOf(known) });
    return this.space(of) as VectorSpace;
  }

  /** Lets go of all vectors of a model, which are to be made anew. */
  drop(of: VectorModel): void {
    this.sql.dropSpace.run(of);
  }

  /** Keeps vectors, in one transaction. */
  add(space: number, vectors: readonly { hash: string; vector: Float32Array }[]): void {
    this.database
      .transaction(() => {
        for (const { hash, vector } of vectors) this.sql.add.run({ space, hash, vector: bytesOf(vector) });
      })
      .immediate();
  }

  /** Passages of cuttings that have no vector of a space yet, each text once. @param space undefined where none was begun */
  missing(cuttings: readonly number[], space: number | undefined, most: number): WantedPassage[] {
    return this.sql.missing
      .all(JSON.stringify(cuttings), space ?? -1, most)
      .map(({ hash, text, place }) => ({ hash, text, headings: JSON.parse(place).headings }));
  }

  /** How many passages cuttings have, and how many of these have a vector. */
  counts(cuttings: readonly number[], space: number | undefined): { passages: number; made: number } {
    return this.sql.counts.get(space ?? -1, JSON.stringify(cuttings)) ?? { passages: 0, made: 0 };
  }

  /** The vectors of a cutting, as far as they are made: kept at hand once all of them are. */
  matrix({ id: space, length }: Pick<VectorSpace, "id" | "length">, cutting: number): Matrix {
    const of = this.sql.stands.get({ cutting });
    const key = `${space} ${of?.stands}`;
    const before = this.matrices.get(key);
    if (before) return before;
    const rows = this.sql.rows.all(space, cutting);
    const numbers = new Float32Array(rows.length * length);
    for (const [at, { vector }] of rows.entries()) numbers.set(numbersIn(vector), at * length);
    const matrix = { ids: rows.map(({ id }) => id), length, numbers };
    // a cutting that is whole never changes
    if (rows.length > 0 && rows.length === of?.passages) this.matrices.set(key, matrix);
    return matrix;
  }

  /** Deletes those vectors of texts that no passage has any more. @param hashes of texts */
  leave(hashes: readonly string[]): void {
    this.sql.leave.run(JSON.stringify(hashes));
  }

  /** Deletes some vectors of texts that no passage has any more. */
  sweep(most: number): void {
    this.sql.sweep.run(most);
  }
}

function bytesOf(vector: Float32Array): Buffer {
  return Buffer.from(vector.buffer, vector.byteOffset, vector.byteLength);
}

function numbersIn(bytes: Buffer): Float32Array {
  // of its own: what a database gives may begin anywhere in memory
  return new Float32Array(Uint8Array.from(bytes).buffer);
}

/** A parameter that has `vectors`. */
export interface HasVectors {
  vectors: VectorStore;
}
