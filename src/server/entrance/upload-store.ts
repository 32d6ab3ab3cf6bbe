import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** Pictures that visitors handed in: each visitor knows a file by an id of its own, and never by the hash of its bytes. */
export class UploadStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      add: database.prepare("INSERT OR IGNORE INTO uploads (id, visitor_id, hash, at) VALUES (?, ?, ?, ?)"),
      hash: database
        .prepare<[string, string], string>("SELECT hash FROM uploads WHERE id = ? AND visitor_id = ?")
        .pluck(),
      // served by uploads_by_visitor
      id: database
        .prepare<[string, string], string>("SELECT id FROM uploads WHERE visitor_id = ? AND hash = ?")
        .pluck(),
    };
  }

  /** The id under which a visitor knows a file; the same one for the same bytes. */
  idFor(visitor: string, hash: string, now: number): string {
    this.sql.add.run(newId("fil"), visitor, hash, now);
    return this.sql.id.get(visitor, hash) as string;
  }

  /** The id of a file that a visitor has; undefined where it has none. */
  find(visitor: string, hash: string): string | undefined {
    return this.sql.id.get(visitor, hash);
  }

  /** The hash of a visitor's file; undefined for one of another, too. */
  hashOf(visitor: string, id: string): string | undefined {
    return this.sql.hash.get(id, visitor);
  }
}

/** A parameter that has `uploads`. */
export interface HasUploads {
  uploads: UploadStore;
}
