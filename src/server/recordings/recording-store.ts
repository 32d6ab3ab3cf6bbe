import { createHash } from "node:crypto";
import { mostRecordings } from "@/core/recordings/file";
import { keyOf, type RecordedCall, type Recording, type Slot } from "@/core/recordings/recording";
import type { Database } from "../database/database";

/** How many recordings an app has, how large they are, and when the first and the last of them were made. */
export interface Kept {
  count: number;
  /** Bytes of their file. */
  bytes: number;
  /** Epoch milliseconds; null where there are none. */
  oldest: number | null;
  newest: number | null;
}

/** The recordings of apps, up to a size. */
export class RecordingStore {
  private readonly sql;

  constructor(private readonly database: Database) {
    this.sql = {
      add: database.prepare(
        `INSERT INTO recordings (app_id, check_name, column_name, trial, key, size, at, line)
         VALUES (@app, @check, @column, @trial, @key, @size, @at, @line)`,
      ),
      clear: database.prepare(
        "DELETE FROM recordings WHERE app_id = @app AND check_name = @check AND column_name = @column AND trial = @trial",
      ),
      clearAll: database.prepare("DELETE FROM recordings WHERE app_id = ?"),
      count: database
        .prepare<[{ app: string; key: string } & Slot], number>(
          `SELECT count(*) FROM recordings
           WHERE app_id = @app AND check_name = @check AND column_name = @column AND trial = @trial AND key = @key`,
        )
        .pluck(),
      kept: database.prepare<[string], Kept>(
        `SELECT count(*) AS count, coalesce(sum(size), 0) AS bytes, min(at) AS oldest, max(at) AS newest
         FROM recordings WHERE app_id = ?`,
      ),
      all: database.prepare<[string], string>("SELECT line FROM recordings WHERE app_id = ? ORDER BY id").pluck(),
    };
  }

  /** Keeps one; false where the app has as many as it may. */
  add(app: string, recording: Recording): boolean {
    const row = rowOf(recording);
    if (this.kept(app).bytes + row.size > mostRecordings) return false;
    this.sql.add.run({ app, ...row });
    return true;
  }

  /** How often a call was recorded in a place. */
  count(app: string, slot: Slot, call: RecordedCall): number {
    return this.sql.count.get({ app, ...slot, key: hashOf(call) }) ?? 0;
  }

  /** Lets go of those of one place, before it is recorded anew. */
  clear(app: string, slot: Slot): void {
    this.sql.clear.run({ app, ...slot });
  }

  /** Puts others in the place of all that an app has; false where they are more than it may have, and it keeps its own. */
  replace(app: string, recordings: readonly Recording[]): boolean {
    const rows = recordings.map(rowOf);
    if (rows.reduce((sum, { size }) => sum + size, 0) > mostRecordings) return false;
    this.database
      .transaction(() => {
        this.sql.clearAll.run(app);
        for (const row of rows) this.sql.add.run({ app, ...row });
      })
      .immediate();
    return true;
  }

  kept(app: string): Kept {
    return this.sql.kept.get(app) as Kept;
  }

  all(app: string): Recording[] {
    return this.sql.all.all(app).map((line) => JSON.parse(line) as Recording);
  }
}

function rowOf(recording: Recording) {
  const line = JSON.stringify(recording);
  const { of, at, call } = recording;
  return { ...of, key: hashOf(call), size: Buffer.byteLength(line) + 1, at: Date.parse(at), line };
}

/** What a call is looked up by, in few letters. */
export function hashOf(call: RecordedCall): string {
  return createHash("sha256").update(keyOf(call)).digest("base64");
}

/** A parameter that has `recordings`. */
export interface HasRecordings {
  recordings: RecordingStore;
}
