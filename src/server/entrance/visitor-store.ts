import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** Whoever uses an app's page or calls it: a visitor of that app, and of no other. */
export interface StoredVisitor {
  id: string;
  app: string;
  /** As callers name it; null for one that has only an id. */
  name: string | null;
  /** The public token that opened it. */
  token: string | null;
  /** Epoch milliseconds; null for one that lasts. */
  expiresAt: number | null;
}

const prefix = "vis";

/** What a new visitor is known by, beside its id. */
export type NewVisitor = Partial<Pick<StoredVisitor, "name" | "token" | "expiresAt">>;

/** Whether a text has the form of an id that a visitor is given. */
export function isVisitorId(text: string): boolean {
  return text.startsWith(`${prefix}_`);
}

interface VisitorRow {
  id: string;
  app_id: string;
  name: string | null;
  token_id: string | null;
  expires_at: number | null;
}

/** The visitors of all apps. */
export class VisitorStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO visitors (id, app_id, name, token_id, expires_at, created_at)
         VALUES (@id, @app, @name, @token, @expiresAt, @now)`,
      ),
      byId: database.prepare<[string, string], VisitorRow>("SELECT * FROM visitors WHERE id = ? AND app_id = ?"),
      // served by visitors_by_name
      byName: database.prepare<[string, string], VisitorRow>("SELECT * FROM visitors WHERE app_id = ? AND name = ?"),
      extend: database.prepare("UPDATE visitors SET expires_at = ? WHERE id = ?"),
      forget: database.prepare(
        `DELETE FROM visitors WHERE id = ? AND token_id IS NULL
           AND NOT EXISTS (SELECT 1 FROM conversations WHERE visitor_id = visitors.id)
           AND NOT EXISTS (SELECT 1 FROM visitor_documents WHERE visitor_id = visitors.id)`,
      ),
    };
  }

  /** Adds a visitor of an app, or gives the one that has the name already. */
  add(app: string, { name = null, token = null, expiresAt = null }: NewVisitor, now: number): string {
    const known = name === null ? undefined : this.named(app, name);
    if (known) return known.id;
    const id = newId(prefix);
    this.sql.insert.run({ id, app, name, token, expiresAt, now });
    return id;
  }

  /** A visitor of an app, by its id. */
  byId(app: string, id: string): StoredVisitor | undefined {
    const row = this.sql.byId.get(id, app);
    return row && read(row);
  }

  /** A visitor of an app, by the name that callers give it; ids are names too. */
  named(app: string, name: string): StoredVisitor | undefined {
    const row = this.sql.byName.get(app, name) ?? this.sql.byId.get(name, app);
    return row && read(row);
  }

  /** Has a visitor last until another moment, epoch milliseconds. */
  extend(id: string, expiresAt: number): void {
    this.sql.extend.run(expiresAt, id);
  }

  /** Forgets a visitor that has no conversation left, and no document; one that a token opened lasts until its time is over. */
  forget(id: string): void {
    this.sql.forget.run(id);
  }
}

function read({ id, app_id, name, token_id, expires_at }: VisitorRow): StoredVisitor {
  return { id, app: app_id, name, token: token_id, expiresAt: expires_at };
}

/** A parameter that has `visitors`. */
export interface HasVisitors {
  visitors: VisitorStore;
}
