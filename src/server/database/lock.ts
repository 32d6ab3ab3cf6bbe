import { mkdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import Sqlite from "better-sqlite3";

/** Thrown when another process works on a data folder. */
export class FolderInUse extends Error {}

/** Thrown where the file that is locked is no file of SQLite. Nothing is kept in it. */
export class DamagedLock extends Error {}

/**
 * Locks a data folder for this process, until the returned function is called or the process ends,
 * however it ends: the lock is SQLite's own file lock, which the system takes back by itself.
 * @throws {FolderInUse}
 * @throws {DamagedLock}
 */
export function lockFolder(folder: string): () => void {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const owner = join(folder, "owner");
  const file = join(folder, "lock.sqlite");
  const lock = new Sqlite(file, { timeout: 0 });
  try {
    lock.pragma("locking_mode = EXCLUSIVE");
    lock.exec("BEGIN EXCLUSIVE");
  } catch (error) {
    lock.close();
    const code = error instanceof Sqlite.SqliteError ? error.code : "";
    if (/^SQLITE_(?:NOTADB|CORRUPT)/.test(code))
      throw new DamagedLock(
        `The lock ${file} is damaged (${code}). Nothing is kept in it: see that no other Unruly Finch works on this folder, delete that file, and start again.`,
      );
    if (!code.startsWith("SQLITE_BUSY")) throw error;
    throw new FolderInUse(
      `The data folder ${folder} is in use by another Unruly Finch (process ${readOwner(owner)}). Stop that one, or set FINCH_DATA to another folder.`,
    );
  }
  writeFileSync(owner, String(process.pid));
  return () => lock.close();
}

function readOwner(file: string): string {
  try {
    return readFileSync(file, "utf8");
  } catch {
    return "unknown";
  }
}
