import type { Origin } from "@/core/sources/origin";
import type { Database } from "../database/database";
import { newId } from "../ground/id";
import type { CuttingOf } from "./passage-store";

/** A document that a visitor handed in, and that nobody else is answered from. */
export interface VisitorDocument {
  id: string;
  visitor: string;
  title: string;
  /** Names its passages in marks. */
  short: string;
  origin: Origin;
  /** SHA-256 of its bytes. */
  hash: string;
  /** Epoch milliseconds: when it was had, or last looked through for a reply. */
  usedAt: number;
}

/** A size of passages and their overlap, in tokens. */
type Cut = Pick<CuttingOf, "size" | "overlap">;

type Row = Omit<VisitorDocument, "origin"> & { origin: string };

const columns = "id, visitor_id AS visitor, title, short, origin, hash, used_at AS usedAt";

/** The documents of visitors, and the conversations in which something of one was found. */
export class VisitorDocumentStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      // served by the key over visitor_id and short
      ofVisitor: database.prepare<[string], Row>(
        `SELECT ${columns} FROM visitor_documents WHERE visitor_id = ? ORDER BY id`,
      ),
      byId: database.prepare<[string], Row>(`SELECT ${columns} FROM visitor_documents WHERE id = ?`),
      // served by visitors_by_name, and the key of cuttings
      due: database.prepare<[{ app: string; cuts: string }], Row>(
        `SELECT ${columns} FROM visitor_documents
         WHERE visitor_id IN (SELECT id FROM visitors WHERE app_id = @app)
           AND EXISTS (SELECT 1 FROM documents WHERE documents.hash = visitor_documents.hash AND problem IS NULL
             AND (read_at IS NULL OR EXISTS (SELECT 1 FROM json_each(@cuts) WHERE NOT EXISTS (
               SELECT 1 FROM cuttings WHERE cuttings.hash = documents.hash AND is_whole = 1
                 AND size = value ->> 'size' AND overlap = value ->> 'overlap'))))
         ORDER BY id LIMIT 1`,
      ),
      cuttings: database
        .prepare<[Cut & { app: string }], number>(
          `SELECT DISTINCT cuttings.id FROM visitor_documents JOIN cuttings USING (hash)
           WHERE visitor_id IN (SELECT id FROM visitors WHERE app_id = @app)
             AND size = @size AND overlap = @overlap AND is_whole = 1`,
        )
        .pluck(),
      add: database.prepare(
        `INSERT INTO visitor_documents (id, visitor_id, title, short, origin, hash, used_at)
         VALUES (@id, @visitor, @title, @short, @origin, @hash, @usedAt)`,
      ),
      change: database.prepare("UPDATE visitor_documents SET hash = ?, used_at = ? WHERE id = ?"),
      use: database.prepare("UPDATE visitor_documents SET used_at = ? WHERE visitor_id = ?"),
      found: database.prepare(
        "INSERT OR IGNORE INTO visitor_document_uses (document_id, conversation_id) VALUES (?, ?)",
      ),
      foundIn: database
        .prepare<[string], string>("SELECT conversation_id FROM visitor_document_uses WHERE document_id = ?")
        .pluck(),
      delete: database.prepare("DELETE FROM visitor_documents WHERE id = ?"),
      // served by visitor_documents_by_use
      unused: database.prepare<[number, number], Row>(
        `SELECT ${columns} FROM visitor_documents WHERE used_at < ? LIMIT ?`,
      ),
    };
  }

  /** The documents of a visitor, the first one first. */
  ofVisitor(visitor: string): VisitorDocument[] {
    return this.sql.ofVisitor.all(visitor).map(read);
  }

  /** The first document of an app's visitors that is not read yet, or not cut in each of some ways. */
  due(app: string, cuts: readonly Cut[]): VisitorDocument | undefined {
    const row = this.sql.due.get({ app, cuts: JSON.stringify(cuts) });
    return row && read(row);
  }

  /** How the documents of an app's visitors are cut into passages of a size: ids of cuttings that are whole. */
  cuttings(app: string, { size, overlap }: Cut): number[] {
    return this.sql.cuttings.all({ app, size, overlap });
  }

  byId(id: string): VisitorDocument | undefined {
    const row = this.sql.byId.get(id);
    return row && read(row);
  }

  /** Adds a document whose bytes are kept. */
  add(document: Omit<VisitorDocument, "id">): VisitorDocument {
    const added = { ...document, id: newId("doc") };
    this.sql.add.run({ ...added, origin: JSON.stringify(added.origin) });
    return added;
  }

  /** Gives a document newer bytes, which are kept. */
  change(id: string, hash: string, now: number): void {
    this.sql.change.run(hash, now, id);
  }

  /** Takes note that a visitor's documents are looked through. */
  use(visitor: string, now: number): void {
    this.sql.use.run(now, visitor);
  }

  /** Takes note that something of a document was found for a reply in a conversation. */
  found(id: string, conversation: string): void {
    this.sql.found.run(id, conversation);
  }

  /** The conversations in which something of a document was found. */
  foundIn(id: string): string[] {
    return this.sql.foundIn.all(id);
  }

  /** Forgets a document; its bytes, and what was read of them, leave by and by. */
  delete(id: string): void {
    this.sql.delete.run(id);
  }

  /** Some documents that were last used before a moment. */
  unused(before: number, most: number): VisitorDocument[] {
    return this.sql.unused.all(before, most).map(read);
  }
}

function read(row: Row): VisitorDocument {
  return { ...row, origin: JSON.parse(row.origin) };
}

/** A parameter that has `visitorDocuments`. */
export interface HasVisitorDocuments {
  visitorDocuments: VisitorDocumentStore;
}
