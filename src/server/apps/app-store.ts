import { type Look, lookSchema } from "@/core/look/look";
import type { Content } from "@/core/revision/content";
import { type Merged, merge } from "@/core/revision/merge";
import type { Revision } from "@/core/revision/revision";
import { type Access, accessSchema } from "@/core/serving/access";
import type { Database } from "../database/database";
import { slugOf } from "../database/functions";
import { newId } from "../ground/id";
import type { ContentStore } from "./content-store";

/** An app as it is stored. */
export interface StoredApp {
  id: string;
  slug: string;
  name: string;
  draft: Content;
  /** Of the draft. */
  draftHash: string;
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
  draft_hash: string;
  live_revision: number;
  preview_revision: number | null;
  access: string;
  look: string;
}

/** Apps and their revisions. */
export class AppStore {
  private readonly sql;

  constructor(
    private readonly database: Database,
    private readonly contents: ContentStore,
  ) {
    this.sql = {
      all: database.prepare<[], AppRow & { conversations: number; last_used: number | null }>(
        `SELECT apps.*, count(conversations.id) AS conversations, max(conversations.updated_at) AS last_used
         FROM apps LEFT JOIN conversations ON conversations.app_id = apps.id
           AND conversations.deleted_at IS NULL AND conversations.unlisted = 0
         WHERE apps.is_leaving = 0 GROUP BY apps.id ORDER BY coalesce(last_used, apps.created_at) DESC, apps.id DESC`,
      ),
      bySlug: database.prepare<[string], AppRow>("SELECT * FROM apps WHERE slug = ? AND is_leaving = 0"),
      byId: database.prepare<[string], AppRow>("SELECT * FROM apps WHERE id = ? AND is_leaving = 0"),
      isTaken: database.prepare<[string]>("SELECT 1 FROM apps WHERE slug = ?"),
      insert: database.prepare(
        "INSERT INTO apps (id, slug, name, draft_hash, live_revision, created_at) VALUES (@id, @slug, @name, @hash, 1, @now)",
      ),
      rename: database.prepare("UPDATE apps SET name = ? WHERE id = ?"),
      draft: database.prepare("UPDATE apps SET draft_hash = ? WHERE id = ?"),
      live: database.prepare("UPDATE apps SET live_revision = ? WHERE id = ?"),
      preview: database.prepare("UPDATE apps SET preview_revision = ? WHERE id = ?"),
      access: database.prepare("UPDATE apps SET access = ? WHERE id = ?"),
      look: database.prepare("UPDATE apps SET look = ? WHERE id = ?"),
      leave: database.prepare("UPDATE apps SET is_leaving = 1 WHERE id = ?"),
      deleteLeft: database.prepare(
        "DELETE FROM apps WHERE is_leaving = 1 AND NOT EXISTS (SELECT 1 FROM conversations WHERE app_id = apps.id)",
      ),
      // of two that behaved differently once, and the same by now, the later one
      byHash: database
        .prepare<[string, string], number | null>(
          "SELECT max(number) FROM revisions WHERE content_hash = ? AND app_id = ?",
        )
        .pluck(),
      revision: database
        .prepare<[string, number], string>("SELECT content_hash FROM revisions WHERE app_id = ? AND number = ?")
        .pluck(),
      note: database.prepare("UPDATE revisions SET note = ? WHERE app_id = ? AND number = ?"),
      latest: database.prepare<[string], { number: number; hash: string }>(
        "SELECT number, content_hash AS hash FROM revisions WHERE app_id = ? ORDER BY number DESC LIMIT 1",
      ),
      addRevision: database.prepare(
        `INSERT INTO revisions (app_id, number, content_hash, created_at)
         SELECT @app, coalesce(max(number), 0) + 1, @hash, @now FROM revisions WHERE app_id = @app`,
      ),
      naming: database.prepare<[{ provider: string }], { name: string }>(
        `SELECT a.name FROM apps AS a WHERE a.is_leaving = 0 AND (
           EXISTS (
             SELECT 1 FROM contents WHERE (hash = a.draft_hash OR hash IN (
                 SELECT content_hash FROM revisions
                 WHERE app_id = a.id AND number IN (a.live_revision, a.preview_revision)
               )) AND (
                 json_extract(content, '$.provider') = @provider
                 OR json_extract(content, '$.memory.by.provider') = @provider
                 OR json_extract(content, '$.sources.meaning.provider') = @provider
                 OR EXISTS (
                   SELECT 1 FROM json_each(content, '$.guards')
                   WHERE json_extract(value, '$.looksFor.by.provider') = @provider
                 )
                 OR EXISTS (
                   SELECT 1 FROM json_each(content, '$.fallbacks') WHERE json_extract(value, '$.provider') = @provider
                 )
               )
           ) OR EXISTS (
             SELECT 1 FROM json_each(a.access, '$.models') WHERE json_extract(value, '$.provider') = @provider
           )
         )
         ORDER BY a.name`,
      ),
    };
  }

  /** All apps, the last used first, with how many conversations they have. */
  all(): (StoredApp & { conversations: number; lastUsed: number | null })[] {
    return this.sql.all
      .all()
      .map((row) => ({ ...this.read(row), conversations: row.conversations, lastUsed: row.last_used }));
  }

  bySlug(slug: string): StoredApp | undefined {
    const row = this.sql.bySlug.get(slug);
    return row && this.read(row);
  }

  byId(id: string): StoredApp | undefined {
    const row = this.sql.byId.get(id);
    return row && this.read(row);
  }

  /** Makes an app whose first revision is its draft, and is live. */
  make(name: string, draft: Content, now: number): StoredApp {
    return this.database
      .transaction(() => {
        const id = newId("app");
        const slug = this.freeSlug(name);
        const hash = this.contents.keep(draft, now);
        this.sql.insert.run({ id, slug, name, hash, now });
        this.fix(id, hash, now);
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

  setDraft(app: StoredApp, draft: Content, now: number): StoredApp {
    const draftHash = this.contents.keep(draft, now);
    this.sql.draft.run(draftHash, app.id);
    return { ...app, draft: this.contents.read(draftHash), draftHash };
  }

  /**
   * Stores an edit of a draft: where the draft was edited meanwhile, of its other parts alone.
   * @param read the hash of the draft that was edited
   */
  editDraft(id: string, read: string, edited: Content, now: number): Merged {
    return this.database
      .transaction((): Merged => {
        const app = this.byId(id);
        if (!app) throw new Error(`There is no app ${id}.`);
        const merged = merge(this.contents.find(read), app.draft, edited);
        if (merged.kind === "merged") this.setDraft(app, merged.content, now);
        return merged;
      })
      .immediate();
  }

  /** Puts content live, as the revision that it is or becomes. */
  putLive(app: StoredApp, content: Content, now: number): StoredApp {
    return this.database
      .transaction(() => {
        const liveRevision = this.fix(app.id, this.contents.keep(content, now), now);
        this.sql.live.run(liveRevision, app.id);
        return { ...app, liveRevision };
      })
      .immediate();
  }

  /** Lets callers try content at an address of its own; null ends that. */
  preview(app: StoredApp, content: Content | null, now: number): StoredApp {
    return this.database
      .transaction(() => {
        const previewRevision = content && this.fix(app.id, this.contents.keep(content, now), now);
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
  numberOf(id: string, hash: string): number | undefined {
    return this.sql.byHash.get(hash, id) ?? undefined;
  }

  /** Gives a content that is kept the number of a revision: the same content is the same revision. */
  fix(id: string, hash: string, now: number): number {
    const number = this.numberOf(id, hash);
    if (number !== undefined) return number;
    this.sql.addRevision.run({ app: id, hash, now });
    return this.latest(id).number;
  }

  revision(id: string, number: number): Revision | undefined {
    const hash = this.sql.revision.get(id, number);
    return hash === undefined ? undefined : { number, hash, content: this.contents.read(hash) };
  }

  /** Writes a note on a revision; gives whether there is such a one. */
  note(id: string, number: number, note: string): boolean {
    return this.sql.note.run(note, id, number).changes > 0;
  }

  latest(id: string): Revision {
    const row = this.sql.latest.get(id);
    if (!row) throw new Error(`App ${id} has no revision.`);
    return { ...row, content: this.contents.read(row.hash) };
  }

  /**
   * The names of the apps that name a provider: in the draft, the live revision or the preview, as the model, one to
   * go on to, or the one that sums up, makes vectors or judges; or among the models that callers may choose.
   */
  naming(provider: string): string[] {
    return this.sql.naming.all({ provider }).map(({ name }) => name);
  }

  private freeSlug(name: string): string {
    const slug = slugOf(name);
    for (let number = 1; ; number++) {
      const tried = number === 1 ? slug : `${slug}-${number}`;
      if (!this.sql.isTaken.get(tried)) return tried;
    }
  }

  private read(row: AppRow): StoredApp {
    return {
      id: row.id,
      slug: row.slug,
      name: row.name,
      draft: this.contents.read(row.draft_hash),
      draftHash: row.draft_hash,
      liveRevision: row.live_revision,
      previewRevision: row.preview_revision,
      access: accessSchema.parse(JSON.parse(row.access)),
      look: lookSchema.parse(JSON.parse(row.look)),
    };
  }
}

/** A parameter that has `apps`. */
export interface HasApps {
  apps: AppStore;
}
