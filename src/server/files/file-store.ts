import { createHash } from "node:crypto";
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, renameSync, rmSync, writeSync } from "node:fs";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import type { TakenPicture } from "@/core/pictures/judging";
import type { Picture } from "@/core/pictures/picture";
import type { Database } from "../database/database";

/** A file that is kept: what it is, and where its bytes stand. */
export interface StoredFile extends Picture {
  /** SHA-256 of its bytes, in hexadecimal digits. */
  hash: string;
  /** Bytes. */
  size: number;
  path: string;
}

/**
 * Bytes by their hash, each once, in the folder of files. They are written aside and renamed, so that a file is whole
 * or not there. What no message holds (see `file_uses`) is swept after a while.
 */
export class FileStore {
  private readonly sql;

  /** @param folder of files, in the data folder; made where it is not there */
  constructor(
    database: Database,
    private readonly folder: string,
  ) {
    this.sql = {
      keep: database.prepare(
        `INSERT INTO files (hash, type, size, width, height, kept_at) VALUES (@hash, @type, @size, @width, @height, @now)
         ON CONFLICT DO UPDATE SET kept_at = excluded.kept_at`,
      ),
      find: database.prepare<[string], Omit<StoredFile, "path">>(
        "SELECT hash, type, size, width, height FROM files WHERE hash = ?",
      ),
      // served by files_by_age, file_uses_by_hash and uploads_by_hash
      unused: database
        .prepare<[number, number], string>(
          `SELECT hash FROM files WHERE kept_at < ? AND NOT EXISTS (SELECT 1 FROM file_uses WHERE file_uses.hash = files.hash)
           LIMIT ?`,
        )
        .pluck(),
      forgetUploads: database.prepare("DELETE FROM uploads WHERE hash = ?"),
      forget: database.prepare("DELETE FROM files WHERE hash = ?"),
    };
  }

  /** Keeps a picture that was judged. @param now epoch milliseconds, from which on it is kept for a while in any case */
  keep({ bytes, type, width, height }: TakenPicture, now: number): StoredFile {
    const hash = createHash("sha256").update(bytes).digest("hex");
    const path = this.pathOf(hash);
    if (!existsSync(path)) this.write(path, bytes, hash);
    const picture = { hash, type, width, height, size: bytes.length };
    this.sql.keep.run({ ...picture, now });
    return { ...picture, path };
  }

  /** A file by its hash; undefined where it is not kept. */
  find(hash: string): StoredFile | undefined {
    const found = this.sql.find.get(hash);
    return found && { ...found, path: this.pathOf(hash) };
  }

  read(file: StoredFile): Promise<Buffer> {
    return readFile(file.path);
  }

  /** Deletes some files that no message uses, and that were last kept before a moment; gives how many. */
  sweep(before: number, most: number): number {
    const unused = this.sql.unused.all(before, most);
    for (const hash of unused) {
      this.sql.forgetUploads.run(hash);
      this.sql.forget.run(hash);
      rmSync(this.pathOf(hash), { force: true });
    }
    return unused.length;
  }

  private write(path: string, bytes: Uint8Array, hash: string): void {
    mkdirSync(join(this.folder, hash.slice(0, 2)), { recursive: true });
    const aside = `${path}.${process.pid}.new`;
    try {
      const opened = openSync(aside, "w", 0o600);
      try {
        writeSync(opened, bytes);
        fsyncSync(opened);
      } finally {
        closeSync(opened);
      }
      renameSync(aside, path);
    } catch (error) {
      rmSync(aside, { force: true });
      throw error;
    }
  }

  private pathOf(hash: string): string {
    return join(this.folder, hash.slice(0, 2), hash);
  }
}

/** A parameter that has `files`. */
export interface HasFiles {
  files: FileStore;
}
