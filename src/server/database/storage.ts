import Sqlite from "better-sqlite3";
import { type Problem, problem } from "@/core/problem/problem";

const held = /^(?:SQLITE_BUSY|SQLITE_LOCKED)/;

/** What a code of SQLite or of the system says about the data folder, and what to do. */
const sayings: [code: RegExp, what: string, advice: string][] = [
  [
    /^(?:SQLITE_FULL|ENOSPC|EDQUOT)/,
    "the disk is full",
    "Make room on the disk. What arrives meanwhile is kept in memory and written then.",
  ],
  [
    /^(?:SQLITE_READONLY|SQLITE_CANTOPEN|SQLITE_PERM|EACCES|EPERM|EROFS)/,
    "it may not be written to",
    "Give this user the right to write the data folder and all files in it, or set FINCH_DATA to another folder.",
  ],
  [
    /^(?:SQLITE_CORRUPT|SQLITE_NOTADB)/,
    "the database finch.sqlite is damaged",
    "Stop Unruly Finch and put back a copy of the data folder, or move the damaged one away to begin anew.",
  ],
  [
    /^(?:SQLITE_IOERR|SQLITE_NOMEM|EIO|EMFILE|ENFILE)/,
    "the disk does not do what it is asked to",
    "Look at the disk and the terminal, then start again.",
  ],
  [held, "another program holds the database", "Close what has finch.sqlite open."],
  [/^(?:ENOTDIR|EEXIST|EISDIR)/, "it is no folder", "Set FINCH_DATA to a folder."],
];

/**
 * The problem of a data folder that can't be used just now, where that is what an error tells. Such a
 * failure is nobody's own: whatever was to be written can be written once it has passed.
 */
export function storageProblem(error: unknown): Problem | undefined {
  const { syscall, path } = (error ?? {}) as NodeJS.ErrnoException;
  // what goes wrong while a file is written names no path; a socket that is written to has other codes
  const isOurs =
    error instanceof Sqlite.SqliteError || (error instanceof Error && (syscall === "write" || path !== undefined));
  const code = isOurs ? String((error as { code?: unknown }).code) : "";
  const found = sayings.find(([pattern]) => pattern.test(code));
  return found && problem("no-storage", `The data folder can't be used: ${found[1]} (${code}).`, { advice: found[2] });
}

/** Whether an error says that another connection is writing just now. */
export function isHeld(error: unknown): boolean {
  return error instanceof Sqlite.SqliteError && held.test(error.code);
}
