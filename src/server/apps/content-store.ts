import { createHash } from "node:crypto";
import { LRUCache } from "lru-cache";
import { type Content, canonical, contentSchema } from "@/core/revision/content";
import type { Database } from "../database/database";

/** Contents that are kept at hand as they were read. */
const mostAtHand = 200;

/** The hash of a content: SHA-256 of its canonical form, in hexadecimal digits. */
export function hashOf(content: Content): string {
  return createHash("sha256").update(canonical(content)).digest("hex");
}

/** Contents, each once, under its hash. Drafts, revisions and replies point to them. */
export class ContentStore {
  private readonly sql;
  /** A content never changes under its hash. */
  private readonly atHand = new LRUCache<string, Content>({ max: mostAtHand });

  constructor(database: Database) {
    this.sql = {
      keep: database.prepare(
        "INSERT INTO contents (hash, content, kept_at) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET kept_at = excluded.kept_at",
      ),
      read: database.prepare<[string], string>("SELECT content FROM contents WHERE hash = ?").pluck(),
      // served by contents_by_age, revisions_by_content, apps_by_draft, replies_by_content, lanes_by_content, run_columns_by_content, set_lanes_by_content and duet_sides_by_content
      sweep: database.prepare(
        `DELETE FROM contents WHERE hash IN (
           SELECT hash FROM contents AS c WHERE kept_at < ?
             AND NOT EXISTS (SELECT 1 FROM revisions WHERE content_hash = c.hash)
             AND NOT EXISTS (SELECT 1 FROM apps WHERE draft_hash = c.hash)
             AND NOT EXISTS (SELECT 1 FROM messages WHERE made_from = c.hash)
             AND NOT EXISTS (SELECT 1 FROM lanes WHERE content_hash = c.hash)
             AND NOT EXISTS (SELECT 1 FROM run_columns WHERE content_hash = c.hash)
             AND NOT EXISTS (SELECT 1 FROM set_lanes WHERE content_hash = c.hash)
             AND NOT EXISTS (SELECT 1 FROM duet_sides WHERE content_hash = c.hash)
           LIMIT ?)`,
      ),
    };
  }

  /** Keeps a content, and gives its hash. @param now epoch milliseconds, from which on it is kept for a while in any case */
  keep(content: Content, now: number): string {
    const hash = hashOf(content);
    this.sql.keep.run(hash, canonical(content), now);
    return hash;
  }

  /** The content of a hash; undefined where nothing points to it any more. Its hash is not made anew. */
  find(hash: string): Content | undefined {
    const known = this.atHand.get(hash);
    if (known) return known;
    const text = this.sql.read.get(hash);
    if (text === undefined) return undefined;
    const content = contentSchema.parse(JSON.parse(text));
    this.atHand.set(hash, content);
    return content;
  }

  /** A content that something points to. */
  read(hash: string): Content {
    const content = this.find(hash);
    if (!content) throw new Error(`There is no content ${hash}.`);
    return content;
  }

  /** Deletes some of those that nothing points to, and that were last kept before a moment; gives how many. */
  sweep(before: number, most: number): number {
    return this.sql.sweep.run(before, most).changes;
  }
}

/** A parameter that has `contents`. */
export interface HasContents {
  contents: ContentStore;
}
