import {
  closeSync,
  copyFileSync,
  existsSync,
  fsyncSync,
  linkSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
} from "node:fs";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { lendFunctions } from "./functions";

const migrationsFolder = join(process.cwd(), "src/server/database/migrations");

/** Rows that are changed between two words on how far it is, and milliseconds between two such words. */
const slice = 2_000;
const often = 1_000;

/** How many times its size a database may take while it is brought along. */
const room = 2.5;

/** Thrown where a data folder can't be brought along; it is as it was. */
export class NotBroughtAlong extends Error {}

/** Says how far it is. */
export type Tell = (line: string) => void;

/**
 * Brings the database of a locked data folder to the form that this version works with. All is done to a copy, which
 * takes the place of the database once it is whole: however that ends, the database is either as it was or as it is
 * to be. What was there stays beside it as `finch-before-NNNN.sqlite`.
 * @param file of the database; one that is not there yet is made
 * @throws {NotBroughtAlong} where there is no room, where the copy is not sound, or where a newer version wrote it
 */
export function bringAlong(file: string, tell: Tell): void {
  const copy = `${file}.new`;
  for (const left of [copy, `${copy}-journal`, `${copy}-wal`, `${copy}-shm`]) rmSync(left, { force: true });
  const migrations = readdirSync(migrationsFolder)
    .filter((name) => /^\d{4}-.*\.sql$/.test(name))
    .sort();
  const database = new Sqlite(file);
  let done: number;
  try {
    done = database.pragma("user_version", { simple: true }) as number;
    if (done > migrations.length)
      throw new NotBroughtAlong(
        `The data folder was written by a newer Unruly Finch (migration ${done}); this one knows ${migrations.length}.`,
      );
    if (done === migrations.length) return;
    if (done === 0) {
      make(database, migrations);
      return;
    }
    needRoom(file);
    tell("The data folder is of an older version. A copy of it is made and brought along; the old one stays as it is.");
    database.prepare("VACUUM INTO ?").run(copy);
  } finally {
    // the last connection that is closed leaves no write-ahead log behind
    database.close();
  }
  if (existsSync(`${file}-wal`))
    throw new NotBroughtAlong(`${file} is open in another program. Close that, then start again.`);
  try {
    migrateCopy(copy, migrations, done, tell);
    sync(copy);
  } catch (error) {
    rmSync(copy, { force: true });
    throw error;
  }
  const before = file.replace(/\.sqlite$/, `-before-${String(migrations.length).padStart(4, "0")}.sqlite`);
  rmSync(before, { force: true });
  keepBeside(file, before);
  renameSync(copy, file);
  tell(`The data folder is brought along. As it was before it stands in ${before}, which you can delete.`);
}

/** Makes the tables of a database that has none. */
function make(database: Sqlite.Database, migrations: readonly string[]): void {
  lendFunctions(database);
  database.pragma("foreign_keys = ON");
  database
    .transaction(() => {
      for (const name of migrations) for (const { sql, of } of stepsOf(name)) run(database, sql, of);
      database.pragma(`user_version = ${migrations.length}`);
    })
    .immediate();
}

/** Runs the migrations that a copy has not had. It is thrown away where that fails, so that nothing is kept for undoing. */
function migrateCopy(copy: string, migrations: readonly string[], done: number, tell: Tell): void {
  const database = new Sqlite(copy);
  try {
    database.pragma("journal_mode = MEMORY");
    database.pragma("synchronous = OFF");
    database.pragma("foreign_keys = ON");
    lendFunctions(database);
    for (const [at, name] of migrations.entries()) {
      if (at < done) continue;
      const steps = stepsOf(name);
      for (const [step, { sql, of }] of steps.entries()) {
        const where = `${name.replace(/\.sql$/, "")}, step ${step + 1} of ${steps.length}`;
        tell(where);
        run(database, sql, of, tell, where);
      }
      database.pragma(`user_version = ${at + 1}`);
    }
    const [broken] = database.pragma("foreign_key_check") as { table: string }[];
    if (broken) throw new NotBroughtAlong(`A row of ${broken.table} points to one that is not there.`);
    database.pragma("journal_mode = WAL");
  } finally {
    database.close();
  }
}

/** A part of a migration: statements, or one that is done in slices of a table's rows. */
interface Step {
  sql: string;
  of?: string;
}

/** The steps of a migration: the statement after a line `-- in slices of TABLE` is one by itself. */
function stepsOf(name: string): Step[] {
  const text = readFileSync(join(migrationsFolder, name), "utf8");
  return text.split(/^(?=-- in slices of )/m).flatMap((part): Step[] => {
    const found = /^-- in slices of (\w+)\n([^;]*;)/.exec(part);
    const [whole = "", of, sql = ""] = found ?? [];
    const rest = part.slice(whole.length);
    return [...(of ? [{ sql, of }] : []), ...(rest.trim() === "" ? [] : [{ sql: rest }])];
  });
}

function run(database: Sqlite.Database, sql: string, of?: string, tell: Tell = () => {}, where = ""): void {
  if (of === undefined) {
    database.exec(sql);
    return;
  }
  const statement = database.prepare(sql);
  const last = database.prepare<[], number>(`SELECT coalesce(max(rowid), 0) FROM ${of}`).pluck().get() as number;
  let told = performance.now();
  for (let from = 1; from <= last; from += slice) {
    statement.run({ from, to: from + slice - 1 });
    if (performance.now() - told < often) continue;
    told = performance.now();
    const share = Math.min((from + slice - 1) / last, 1);
    tell(`${where}: ${of}, ${Math.floor(share * 100)} %`);
  }
}

/** @throws {NotBroughtAlong} where the disk has no room for a copy */
function needRoom(file: string): void {
  const { bavail, bsize } = statfsSync(file);
  const size = [file, `${file}-wal`].reduce((sum, each) => sum + (existsSync(each) ? statSync(each).size : 0), 0);
  const [free, needed] = [bavail * bsize, size * room];
  if (free >= needed) return;
  const mb = (bytes: number) => `${Math.ceil(bytes / 1024 / 1024)} MB`;
  throw new NotBroughtAlong(
    `The data folder is of an older version, and there is no room for the copy that is brought along: it takes up to ${mb(needed)}, and ${mb(free)} are free. Make room on the disk, then start again; nothing was changed.`,
  );
}

/** Gives a file a second name; where the disk knows no second names, a copy. */
function keepBeside(file: string, beside: string): void {
  try {
    linkSync(file, beside);
  } catch {
    copyFileSync(file, beside);
    sync(beside);
  }
}

/** Has the disk write a file to its end. */
function sync(file: string): void {
  const opened = openSync(file, "r+");
  try {
    fsyncSync(opened);
  } finally {
    closeSync(opened);
  }
}
