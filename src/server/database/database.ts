import { existsSync, mkdirSync, readdirSync, readFileSync, statSync } from "node:fs";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { DamagedFile } from "../security/secret";
import { lendFunctions } from "./functions";

export type Database = Sqlite.Database;

/** Milliseconds that this thread waits, with all that it does, for another connection to end its writing. */
const patience = 2000;
const migrationsFolder = join(process.cwd(), "src/server/database/migrations");

/**
 * Opens the database in a data folder, which is made if need be, and brings its tables up to date.
 * @throws {DamagedFile} where the file was emptied
 */
export function openDatabase(folder: string): Database {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const file = join(folder, "finch.sqlite");
  // the secret is made after the database: where it is there, the database held something once
  if (existsSync(join(folder, "secret")) && (!existsSync(file) || statSync(file).size === 0))
    throw new DamagedFile(
      `The database ${file} is ${existsSync(file) ? "empty" : "gone"}, and held something once. Put back a copy of the data folder; to begin anew instead, delete the folder or set FINCH_DATA to another.`,
    );
  const database = new Sqlite(file);
  database.pragma("journal_mode = WAL");
  database.pragma("synchronous = NORMAL");
  database.pragma("foreign_keys = ON");
  database.pragma(`busy_timeout = ${patience}`);
  lendFunctions(database);
  migrate(database);
  return database;
}

/** Does something that waits for another connection's writing for so many milliseconds only. */
export function waiting<T>(database: Database, milliseconds: number, work: () => T): T {
  // `exec` is a quarter of the work that `pragma` is
  database.exec(`PRAGMA busy_timeout = ${milliseconds}`);
  try {
    return work();
  } finally {
    database.exec(`PRAGMA busy_timeout = ${patience}`);
  }
}

/** A further connection to an open database, which writes too. */
export function openBeside(folder: string): Database {
  const database = new Sqlite(join(folder, "finch.sqlite"));
  database.pragma("synchronous = NORMAL");
  database.pragma("foreign_keys = ON");
  database.pragma("busy_timeout = 5000");
  return database;
}

/** A further connection to an open database, which only reads. */
export function openForReading(folder: string): Database {
  const database = new Sqlite(join(folder, "finch.sqlite"), { readonly: true });
  database.pragma("busy_timeout = 2000");
  return database;
}

/** Runs the migrations that a database has not had, each in one transaction. */
function migrate(database: Database): void {
  const done = database.pragma("user_version", { simple: true }) as number;
  const files = readdirSync(migrationsFolder)
    .filter((name) => /^\d{4}-.*\.sql$/.test(name))
    .sort();
  if (done > files.length)
    throw new Error(
      `The data folder was written by a newer Unruly Finch (migration ${done}); this one knows ${files.length}.`,
    );
  for (const [at, name] of files.entries()) {
    if (at < done) continue;
    database
      .transaction(() => {
        database.exec(readFileSync(join(migrationsFolder, name), "utf8"));
        database.pragma(`user_version = ${at + 1}`);
      })
      .immediate();
  }
}
