import type { Database } from "../database/database";

/** A script as it is kept. */
export interface StoredScript {
  name: string;
  text: string;
  /** Epoch milliseconds. */
  updatedAt: number;
}

/** Scripts of checks that apps keep themselves, and the folders from which those of others are read. */
export class ScriptStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      ofApp: database.prepare<[string], StoredScript>(
        "SELECT name, text, updated_at AS updatedAt FROM check_scripts WHERE app_id = ? ORDER BY name",
      ),
      put: database.prepare(
        `INSERT INTO check_scripts (app_id, name, text, updated_at) VALUES (?, ?, ?, ?)
         ON CONFLICT DO UPDATE SET text = excluded.text, updated_at = excluded.updated_at`,
      ),
      delete: database.prepare("DELETE FROM check_scripts WHERE app_id = ? AND name = ?"),
      folder: database.prepare<[string], string | null>("SELECT checks_folder FROM apps WHERE id = ?").pluck(),
      setFolder: database.prepare("UPDATE apps SET checks_folder = ? WHERE id = ?"),
    };
  }

  ofApp(app: string): StoredScript[] {
    return this.sql.ofApp.all(app);
  }

  put(app: string, name: string, text: string, now: number): void {
    this.sql.put.run(app, name, text, now);
  }

  delete(app: string, name: string): boolean {
    return this.sql.delete.run(app, name).changes > 0;
  }

  /** The folder of the developer's from which an app's scripts are read; null where it keeps them itself. */
  folder(app: string): string | null {
    return this.sql.folder.get(app) ?? null;
  }

  setFolder(app: string, folder: string | null): void {
    this.sql.setFolder.run(folder, app);
  }
}

/** A parameter that has `scripts`. */
export interface HasScripts {
  scripts: ScriptStore;
}
