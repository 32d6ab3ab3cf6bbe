import { type Look, lookSchema } from "@/core/look/look";
import { type Content, contentSchema, type Revision } from "@/core/revision/revision";
import { type Access, accessSchema } from "@/core/serving/access";
import type { Database } from "../database/database";
import { hashOf, slugOf } from "../database/functions";
import { newId } from "../id";

/** An app as it is stored. */
export interface StoredApp {
  id: string;
  slug: string;
  name: string;
  draft: Content;
  liveRevision: number;
  /** The revision that is tried before it is put live. */
  previewRevision: number | null;
  access: Access;
  look: Look;
}

interface AppRow {
  id: string;
  slug: string;
  name: string;
  draft: string;
  live_revision: number;
  preview_revision: number | null;
  access: string;
  look: string;
}

/** Apps and their revisions. */
export class AppStore {
  private readonly sql;

  constructor(private readonly database: Database) {
    this.sql = {
      all: database.prepare<[], AppRow & { conversations: number; last_used: number | null }>(
        `SELECT apps.*, count(conversations.id) AS conversations, max(conversations.updated_at) AS last_used
         FROM apps LEFT JOIN conversations ON conversations.app_id = apps.id
           AND conversations.deleted_at IS NULL AND conversations.is_passing = 0
         WHERE apps.is_leaving = 0 GROUP BY apps.id ORDER BY coalesce(last_used, apps.created_at) DESC, apps.id DESC`,
      ),
      bySlug: database.prepare<[string], AppRow>("SELECT * FROM apps WHERE slug = ? AND is_leaving = 0"),
      byId: database.prepare<[string], AppRow>("SELECT * FROM apps WHERE id = ? AND is_leaving = 0"),
      isTaken: database.prepare<[string]>("SELECT 1 FROM apps WHERE slug = ?"),
      insert: database.prepare(
        "INSERT INTO apps (id, slug, name, draft, live_revision, created_at) VALUES (@id, @slug, @name, @draft, 1, @now)",
      ),
      rename: database.prepare("UPDATE apps SET name = ? WHERE id = ?"),
      draft: database.prepare("UPDATE apps SET draft = ? WHERE id = ?"),
      live: database.prepare("UPDATE apps SET live_revision = ? WHERE id = ?"),
      preview: database.prepare("UPDATE apps SET preview_revision = ? WHERE id = ?"),
      access: database.prepare("UPDATE apps SET access = ? WHERE id = ?"),
      look: database.prepare("UPDATE apps SET look = ? WHERE id = ?"),
      leave: database.prepare("UPDATE apps SET is_leaving = 1 WHERE id = ?"),
      deleteLeft: database.prepare(
        "DELETE FROM apps WHERE is_leaving = 1 AND NOT EXISTS (SELECT 1 FROM conversations WHERE app_id = apps.id)",
      ),
      byHash: database.prepare<[string, string], { number: number }>(
        "SELECT number FROM revisions WHERE app_id = ? AND hash = ?",
      ),
      revision: database.prepare<[string, number], { number: number; content: string }>(
        "SELECT number, content FROM revisions WHERE app_id = ? AND number = ?",
      ),
      note: database.prepare("UPDATE revisions SET note = ? WHERE app_id = ? AND number = ?"),
      latest: database.prepare<[string], { number: number; content: string }>(
        "SELECT number, content FROM revisions WHERE app_id = ? ORDER BY number DESC LIMIT 1",
      ),
      addRevision: database.prepare(
        `INSERT INTO revisions (app_id, number, hash, content, created_at)
         SELECT @app, coalesce(max(number), 0) + 1, @hash, @content, @now FROM revisions WHERE app_id = @app`,
      ),
      speakingThrough: database.prepare<[{ provider: string }], { name: string }>(
        `SELECT a.name FROM apps a JOIN revisions r ON r.app_id = a.id AND r.number = a.live_revision
         WHERE a.is_leaving = 0 AND EXISTS (
           SELECT 1 FROM (SELECT a.draft AS content UNION ALL SELECT r.content)
           WHERE json_extract(content, '$.provider') = @provider
             OR EXISTS (SELECT 1 FROM json_each(content, '$.fallbacks') WHERE json_extract(value, '$.provider') = @provider)
         )
         ORDER BY a.name`,
      ),
    };
  }

  /** All apps, the last used first, with how many conversations they have. */
  all(): (StoredApp & { conversations: number; lastUsed: number | null })[] {
    return this.sql.all
      .all()
      .map((row) => ({ ...read(row), conversations: row.conversations, lastUsed: row.last_used }));
  }

  bySlug(slug: string): StoredApp | undefined {
    const row = this.sql.bySlug.get(slug);
    return row && read(row);
  }

  byId(id: string): StoredApp | undefined {
    const row = this.sql.byId.get(id);
    return row && read(row);
  }

  /** Makes an app whose first revision is its draft, and is live. */
  make(name: string, draft: Content, now: number): StoredApp {
    return this.database
      .transaction(() => {
        const id = newId("app");
        const slug = this.freeSlug(name);
        this.sql.insert.run({ id, slug, name, draft: JSON.stringify(draft), now });
        this.fix(id, draft, now);
        return this.byId(id) as StoredApp;
      })
      .immediate();
  }

  rename(app: StoredApp, name: string): StoredApp {
    this.sql.rename.run(name, app.id);
    return { ...app, name };
  }

  /** Takes an app out of sight for good; it is deleted by and by, with all its conversations. */
  leave(id: string): void {
    this.sql.leave.run(id);
  }

  /** Deletes the apps that left and hold no conversation any more; false when there are none. */
  deleteLeft(): boolean {
    return this.sql.deleteLeft.run().changes > 0;
  }

  setDraft(app: StoredApp, draft: Content): StoredApp {
    this.sql.draft.run(JSON.stringify(draft), app.id);
    return { ...app, draft };
  }

  /** Puts content live, as the revision that it is or becomes. */
  putLive(app: StoredApp, content: Content, now: number): StoredApp {
    return this.database
      .transaction(() => {
        const liveRevision = this.fix(app.id, content, now);
        this.sql.live.run(liveRevision, app.id);
        return { ...app, liveRevision };
      })
      .immediate();
  }

  /** Lets callers try content at an address of its own; null ends that. */
  preview(app: StoredApp, content: Content | null, now: number): StoredApp {
    return this.database
      .transaction(() => {
        const previewRevision = content && this.fix(app.id, content, now);
        this.sql.preview.run(previewRevision, app.id);
        return { ...app, previewRevision };
      })
      .immediate();
  }

  setAccess(app: StoredApp, access: Access): StoredApp {
    this.sql.access.run(JSON.stringify(access), app.id);
    return { ...app, access };
  }

  setLook(app: StoredApp, look: Look): StoredApp {
    this.sql.look.run(JSON.stringify(look), app.id);
    return { ...app, look };
  }

  /** The number of the revision with this content; undefined when no reply has used it. */
  numberOf(id: string, content: Content): number | undefined {
    return this.sql.byHash.get(id, hashOf(content))?.number;
  }

  /** Fixes content as a revision: the same content is the same revision. */
  fix(id: string, content: Content, now: number): number {
    const number = this.numberOf(id, content);
    if (number !== undefined) return number;
    this.sql.addRevision.run({ app: id, hash: hashOf(content), content: JSON.stringify(content), now });
    return this.latest(id).number;
  }

  revision(id: string, number: number): Revision | undefined {
    const row = this.sql.revision.get(id, number);
    return row && { number: row.number, content: contentSchema.parse(JSON.parse(row.content)) };
  }

  /** Writes a note on a revision; gives whether there is such a one. */
  note(id: string, number: number, note: string): boolean {
    return this.sql.note.run(note, id, number).changes > 0;
  }

  latest(id: string): Revision {
    const row = this.sql.latest.get(id);
    if (!row) throw new Error(`App ${id} has no revision.`);
    return { number: row.number, content: contentSchema.parse(JSON.parse(row.content)) };
  }

  /** The names of the apps whose draft or live revision speaks through a provider, or falls back to it. */
  speakingThrough(provider: string): string[] {
    return this.sql.speakingThrough.all({ provider }).map(({ name }) => name);
  }

  private freeSlug(name: string): string {
    const slug = slugOf(name);
    for (let number = 1; ; number++) {
      const tried = number === 1 ? slug : `${slug}-${number}`;
      if (!this.sql.isTaken.get(tried)) return tried;
    }
  }
}

function read(row: AppRow): StoredApp {
  return {
    id: row.id,
    slug: row.slug,
    name: row.name,
    draft: contentSchema.parse(JSON.parse(row.draft)),
    liveRevision: row.live_revision,
    previewRevision: row.preview_revision,
    access: accessSchema.parse(JSON.parse(row.access)),
    look: lookSchema.parse(JSON.parse(row.look)),
  };
}
