import type { Problem } from "@/core/problem/problem";
import type { DocumentKind } from "@/core/sources/kinds";
import type { Origin } from "@/core/sources/origin";
import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** A document of an app: where it comes from, and the bytes that were had of it last. */
export interface StoredSource {
  id: string;
  app: string;
  title: string;
  /** Names its passages in marks. */
  short: string;
  origin: Origin;
  /** SHA-256 of its bytes. */
  hash: string;
  /** What the bytes are, and how many. */
  kind: DocumentKind;
  size: number;
  /** Epoch milliseconds: when these bytes were had, and when it was last looked for others. */
  hadAt: number;
  lookedAt: number;
  /** Why none could be had then. */
  problem: Problem | null;
}

/** What is told of a document in which something was found. */
export type NamedDocument = Pick<StoredSource, "id" | "title" | "short" | "hash">;

/** A document that is added; its id is a new one where none is given. */
type NewSource = Pick<StoredSource, "app" | "title" | "short" | "origin" | "hash"> & { id?: string };

type Row = Omit<StoredSource, "origin" | "problem"> & { origin: string; problem: string | null };

const columns = `sources.id, app_id AS app, title, short, origin, sources.hash, documents.kind, documents.size,
  had_at AS hadAt, looked_at AS lookedAt, sources.problem`;

/** The documents of apps. */
export class SourceStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      // served by the key over app_id and short
      ofApp: database.prepare<[string], Row>(
        `SELECT ${columns} FROM sources JOIN documents ON documents.hash = sources.hash WHERE app_id = ? ORDER BY sources.id`,
      ),
      byId: database.prepare<[string], Row>(
        `SELECT ${columns} FROM sources JOIN documents ON documents.hash = sources.hash WHERE sources.id = ?`,
      ),
      named: database.prepare<[{ id: string }], NamedDocument>(
        `SELECT id, title, short, hash FROM sources WHERE id = @id
         UNION ALL SELECT id, title, short, hash FROM visitor_documents WHERE id = @id`,
      ),
      add: database.prepare(
        `INSERT INTO sources (id, app_id, title, short, origin, hash, had_at, looked_at, added_at)
         VALUES (@id, @app, @title, @short, @origin, @hash, @now, @now, @now)`,
      ),
      rename: database.prepare("UPDATE sources SET title = ?, short = ? WHERE id = ?"),
      had: database.prepare("UPDATE sources SET hash = ?, had_at = ?, looked_at = ?, problem = NULL WHERE id = ?"),
      looked: database.prepare("UPDATE sources SET looked_at = ?, problem = ? WHERE id = ?"),
      delete: database.prepare("DELETE FROM sources WHERE id = ?"),
      folders: database
        .prepare<[string], string>("SELECT path FROM source_folders WHERE app_id = ? ORDER BY path")
        .pluck(),
      addFolder: database.prepare("INSERT OR IGNORE INTO source_folders (app_id, path) VALUES (?, ?)"),
      deleteFolder: database.prepare("DELETE FROM source_folders WHERE app_id = ? AND path = ?"),
    };
  }

  /** The documents of an app, the first one first. */
  ofApp(app: string): StoredSource[] {
    return this.sql.ofApp.all(app).map(read);
  }

  byId(id: string): StoredSource | undefined {
    const row = this.sql.byId.get(id);
    return row && read(row);
  }

  /** A document that replies are made from: one of an app, or of the visitor who asks. */
  named(id: string): NamedDocument | undefined {
    return this.sql.named.get({ id });
  }

  /** Adds a document whose bytes are kept. */
  add({ id = newId("src"), app, title, short, origin, hash }: NewSource, now: number): StoredSource {
    this.sql.add.run({ id, app, title, short, origin: JSON.stringify(origin), hash, now });
    return this.byId(id) as StoredSource;
  }

  rename(id: string, { title, short }: Pick<StoredSource, "title" | "short">): void {
    this.sql.rename.run(title, short, id);
  }

  /** Takes note of the bytes that it has now: those that it had, or others. */
  had(id: string, hash: string, now: number): void {
    const isSame = this.byId(id)?.hash === hash;
    if (isSame) this.sql.looked.run(now, null, id);
    else this.sql.had.run(hash, now, now, id);
  }

  /** Takes note that none could be had. */
  failed(id: string, problem: Problem, now: number): void {
    this.sql.looked.run(now, JSON.stringify(problem), id);
  }

  delete(id: string): void {
    this.sql.delete.run(id);
  }

  /** The folders whose documents an app takes. */
  folders(app: string): string[] {
    return this.sql.folders.all(app);
  }

  addFolder(app: string, path: string): void {
    this.sql.addFolder.run(app, path);
  }

  deleteFolder(app: string, path: string): void {
    this.sql.deleteFolder.run(app, path);
  }
}

function read(row: Row): StoredSource {
  return { ...row, origin: JSON.parse(row.origin), problem: row.problem === null ? null : JSON.parse(row.problem) };
}

/** A parameter that has `sources`. */
export interface HasSources {
  sources: SourceStore;
}
