import type { Database } from "../database/database";
import { newId } from "../id";

/** Visitors: whoever uses an app's page or calls it. */
export class VisitorStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare("INSERT INTO visitors (id, created_at) VALUES (?, ?)"),
      byId: database.prepare<[string], { id: string }>("SELECT id FROM visitors WHERE id = ?"),
    };
  }

  add(now: number): string {
    const id = newId("vis");
    this.sql.insert.run(id, now);
    return id;
  }

  has(id: string): boolean {
    return this.sql.byId.get(id) !== undefined;
  }
}
