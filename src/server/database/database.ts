import { existsSync, mkdirSync, statSync } from "node:fs";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { DamagedFile } from "../security/secret";
import { bringAlong, type Tell } from "./migrate";

export type Database = Sqlite.Database;

/** Milliseconds that this thread waits, with all that it does, for another connection to end its writing. */
const patience = 2000;

/**
 * Opens the database in a data folder, which is made if need be, and brings it along where it is of an older version.
 * @param tell gets a line now and then on how far that is
 * @throws {DamagedFile} where the file was emptied
 * @throws {NotBroughtAlong}
 */
export function openDatabase(folder: string, tell: Tell = console.log): Database {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const file = join(folder, "finch.sqlite");
  // the secret is made after the database: where it is there, the database held something once
  if (existsSync(join(folder, "secret")) && (!existsSync(file) || statSync(file).size === 0))
    throw new DamagedFile(
      `The database ${file} is ${existsSync(file) ? "empty" : "gone"}, and held something once. Put back a copy of the data folder; to begin anew instead, delete the folder or set FINCH_DATA to another.`,
    );
  bringAlong(file, tell);
  const database = new Sqlite(file);
  database.pragma("journal_mode = WAL");
  database.pragma("synchronous = NORMAL");
  database.pragma("foreign_keys = ON");
  // what is deleted is overwritten
  database.pragma("secure_delete = ON");
  database.pragma(`busy_timeout = ${patience}`);
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
  database.pragma("secure_delete = ON");
  database.pragma("busy_timeout = 5000");
  return database;
}

/** Milliseconds that emptying the write-ahead log waits for those who read it: others wait to write meanwhile. */
const emptying = 20;

/** Brings all of the write-ahead log into the database and leaves nothing in it; false where somebody still reads it. */
export function emptiedLog(database: Database): boolean {
  const before = database.pragma("busy_timeout", { simple: true });
  database.pragma(`busy_timeout = ${emptying}`);
  try {
    const [{ busy }] = database.pragma("wal_checkpoint(TRUNCATE)") as [{ busy: number }];
    return busy === 0;
  } finally {
    database.pragma(`busy_timeout = ${before}`);
  }
}

/** A further connection to an open database, which only reads. */
export function openForReading(folder: string): Database {
  const database = new Sqlite(join(folder, "finch.sqlite"), { readonly: true });
  database.pragma("busy_timeout = 2000");
  return database;
}

/** A parameter that has `folder`. */
export interface HasFolder {
  /** The data folder. */
  folder: string;
}

/** A parameter that has `database`. */
export interface HasDatabase {
  database: Database;
}
