import { createHash } from "node:crypto";
import { existsSync, mkdirSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { Problem } from "@/core/problem/problem";
import type { Block } from "@/core/sources/document";
import type { DocumentKind } from "@/core/sources/kinds";
import type { UnreadPart } from "@/core/sources/origin";
import type { Database } from "../database/database";

/** What is known of some bytes as a document. */
export interface StoredDocument {
  /** SHA-256 of the bytes. */
  hash: string;
  kind: DocumentKind;
  size: number;
  /** In how many parts it is read: pages, where it has pages; null until that is known. */
  parts: number | null;
  /** Epoch milliseconds; null until all of it is read. */
  readAt: number | null;
  /** Parts that could not be read, and why. */
  unread: UnreadPart[];
  /** Why none of it can be. */
  problem: Problem | null;
}

type Row = Omit<StoredDocument, "unread" | "problem"> & { unread: string; problem: string | null };

// served by sources_by_hash and visitor_documents_by_hash; what a content names is looked for in few contents
const isUnused = `NOT EXISTS (SELECT 1 FROM sources WHERE sources.hash = documents.hash)
  AND NOT EXISTS (SELECT 1 FROM visitor_documents WHERE visitor_documents.hash = documents.hash)
  AND NOT EXISTS (SELECT 1 FROM contents WHERE instr(content, documents.hash))`;

/** Documents by the hash of their bytes, with what was read of them. The bytes stand in a folder of the data folder. */
export class DocumentStore {
  private readonly sql;

  /** @param folder of the bytes; made where it is not there */
  constructor(
    database: Database,
    private readonly folder: string,
  ) {
    this.sql = {
      keep: database.prepare(
        `INSERT INTO documents (hash, kind, size, kept_at) VALUES (?, ?, ?, ?)
         ON CONFLICT DO UPDATE SET kept_at = excluded.kept_at, problem = NULL`,
      ),
      find: database.prepare<[string], Row>(
        "SELECT hash, kind, size, parts, read_at AS readAt, unread, problem FROM documents WHERE hash = ?",
      ),
      partsRead: database.prepare<[string], number>("SELECT count(*) FROM document_parts WHERE hash = ?").pluck(),
      length: database
        .prepare<[string], number>("SELECT coalesce(sum(length(blocks)), 0) FROM document_parts WHERE hash = ?")
        .pluck(),
      blocks: database
        .prepare<[string], string>("SELECT blocks FROM document_parts WHERE hash = ? ORDER BY place")
        .pluck(),
      addPart: database.prepare("INSERT OR REPLACE INTO document_parts (hash, place, blocks) VALUES (?, ?, ?)"),
      setParts: database.prepare("UPDATE documents SET parts = ? WHERE hash = ?"),
      setUnread: database.prepare("UPDATE documents SET unread = ? WHERE hash = ?"),
      setRead: database.prepare("UPDATE documents SET read_at = ?, problem = NULL WHERE hash = ?"),
      setProblem: database.prepare("UPDATE documents SET problem = ? WHERE hash = ?"),
      // served by documents_by_age
      unused: database
        .prepare<[number, number], string>(`SELECT hash FROM documents WHERE kept_at < ? AND ${isUnused} LIMIT ?`)
        .pluck(),
      isUnused: database
        .prepare<[string], number>(`SELECT count(*) FROM documents WHERE hash = ? AND ${isUnused}`)
        .pluck(),
      leaving: database.prepare<[], string>("SELECT hash FROM leaving_documents LIMIT 1").pluck(),
      left: database.prepare("DELETE FROM leaving_documents WHERE hash = ?"),
      leaveParts: database.prepare(
        `DELETE FROM document_parts WHERE hash = @hash AND place IN (
           SELECT place FROM document_parts WHERE hash = @hash LIMIT @most)`,
      ),
      delete: database.prepare("DELETE FROM documents WHERE hash = ?"),
    };
  }

  /** Keeps bytes as a document; one that could not be read is tried once more. @param now epoch milliseconds */
  keep(bytes: Uint8Array, kind: DocumentKind, now: number): StoredDocument {
    const hash = createHash("sha256").update(bytes).digest("hex");
    const path = this.pathOf(hash);
    if (!existsSync(path)) {
      mkdirSync(this.folder, { recursive: true, mode: 0o700 });
      const aside = `${path}.${process.pid}.new`;
      try {
        writeFileSync(aside, bytes, { mode: 0o600, flush: true });
        renameSync(aside, path);
      } catch (error) {
        rmSync(aside, { force: true });
        throw error;
      }
    }
    this.sql.keep.run(hash, kind, bytes.length, now);
    return this.find(hash) as StoredDocument;
  }

  find(hash: string): StoredDocument | undefined {
    const row = this.sql.find.get(hash);
    return row && { ...row, unread: JSON.parse(row.unread), problem: row.problem && JSON.parse(row.problem) };
  }

  pathOf(hash: string): string {
    return join(this.folder, hash);
  }

  /** How many parts of it were read. */
  partsRead(hash: string): number {
    return this.sql.partsRead.get(hash) ?? 0;
  }

  /** Characters in which all that was read of it is kept: some more than its text has. */
  lengthKept(hash: string): number {
    return this.sql.length.get(hash) ?? 0;
  }

  /** All that was read of it. */
  blocks(hash: string): Block[] {
    return this.sql.blocks.all(hash).flatMap((blocks) => JSON.parse(blocks) as Block[]);
  }

  setParts(hash: string, parts: number): void {
    this.sql.setParts.run(parts, hash);
  }

  /** Keeps what a part holds, or that it can't be read. @param place from 1 */
  addPart(hash: string, place: number, blocks: readonly Block[], unread: UnreadPart["why"] | null): void {
    this.sql.addPart.run(hash, place, JSON.stringify(blocks));
    if (unread === null) return;
    const others = this.find(hash)?.unread.filter(({ part }) => part !== place) ?? [];
    this.sql.setUnread.run(JSON.stringify([...others, { part: place, why: unread }]), hash);
  }

  setRead(hash: string, now: number): void {
    this.sql.setRead.run(now, hash);
  }

  setProblem(hash: string, problem: Problem): void {
    this.sql.setProblem.run(JSON.stringify(problem), hash);
  }

  /** Deletes some documents that nothing names, and that were kept before a moment. */
  sweep(before: number, most: number): void {
    for (const hash of this.sql.unused.all(before, most)) this.delete(hash);
  }

  /** Bytes that a visitor's document had, and that nothing else has; undefined where there are none. */
  nextLeaving(): string | undefined {
    for (let hash = this.sql.leaving.get(); hash !== undefined; hash = this.sql.leaving.get()) {
      if (this.sql.isUnused.get(hash)) return hash;
      this.sql.left.run(hash);
    }
    return undefined;
  }

  /** Deletes some of what was read of a document; false where nothing is left. */
  leaveParts(hash: string, most: number): boolean {
    return this.sql.leaveParts.run({ hash, most }).changes > 0;
  }

  /** Deletes bytes, and what is known of them. */
  delete(hash: string): void {
    this.sql.delete.run(hash);
    this.sql.left.run(hash);
    rmSync(this.pathOf(hash), { force: true });
  }
}

/** A parameter that has `documents`. */
export interface HasDocuments {
  documents: DocumentStore;
}
