import { createHash, randomBytes } from "node:crypto";
import type { Database } from "../database/database";
import { newId } from "../ground/id";
import type { Seal } from "../security/seal";

/**
 * A server token may name any visitor; a public one, which anybody can read in a page, opens visitors of its own; a
 * site's secret is never sent: with it a site signs who its visitors are.
 */
export type TokenKind = "server" | "public" | "site";

/** The secret of a site, as what it signed is checked with. */
export interface SiteSecret {
  id: string;
  secret: string;
}

/** A token as it is stored: nobody can call with this. */
export interface StoredToken {
  id: string;
  app: string;
  kind: TokenKind;
  name: string;
  /** Its last characters. */
  hint: string;
  createdAt: number;
  usedAt: number | null;
}

interface TokenRow {
  id: string;
  app_id: string;
  kind: TokenKind;
  name: string;
  hint: string;
  created_at: number;
  used_at: number | null;
}

/** How a token of each kind begins, so that one is recognised where it should not stand. */
const beginnings: Record<TokenKind, string> = {
  server: "finch_server_",
  public: "finch_public_",
  site: "finch_site_",
};
/** Milliseconds within which one use is like another. */
const usedLately = 10_000;

/**
 * Tokens that front ends call with, kept as hashes, and secrets that sites sign with, kept sealed: each is shown once.
 */
export class TokenStore {
  private readonly sql;

  constructor(
    database: Database,
    private readonly seal: Seal,
  ) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO tokens (id, app_id, kind, name, hash, hint, created_at)
         VALUES (@id, @app, @kind, @name, @hash, @hint, @now)`,
      ),
      insertSite: database.prepare(
        `INSERT INTO sites (id, app_id, name, sealed, hint, created_at) VALUES (@id, @app, @name, @sealed, @hint, @now)`,
      ),
      // served by tokens_by_app and sites_by_app
      ofApp: database.prepare<{ app: string }, TokenRow>(
        `SELECT id, app_id, kind, name, hint, created_at, used_at FROM tokens WHERE app_id = @app AND revoked_at IS NULL
         UNION ALL
         SELECT id, app_id, 'site', name, hint, created_at, used_at FROM sites WHERE app_id = @app AND revoked_at IS NULL
         ORDER BY id`,
      ),
      // served by sites_by_app
      sites: database.prepare<[string], { id: string; sealed: string }>(
        "SELECT id, sealed FROM sites WHERE app_id = ? AND revoked_at IS NULL ORDER BY id",
      ),
      byHash: database.prepare<[string, string], TokenRow>(
        "SELECT * FROM tokens WHERE hash = ? AND app_id = ? AND revoked_at IS NULL",
      ),
      isGood: database.prepare<{ id: string }>(
        `SELECT 1 FROM tokens WHERE id = @id AND revoked_at IS NULL
         UNION ALL SELECT 1 FROM sites WHERE id = @id AND revoked_at IS NULL`,
      ),
      use: database.prepare("UPDATE tokens SET used_at = ? WHERE id = ?"),
      useSite: database.prepare("UPDATE sites SET used_at = @now WHERE id = @id AND coalesce(used_at, 0) < @before"),
      revoke: database.prepare("UPDATE tokens SET revoked_at = ? WHERE id = ? AND app_id = ? AND revoked_at IS NULL"),
      revokeSite: database.prepare(
        "UPDATE sites SET revoked_at = ?, sealed = '' WHERE id = ? AND app_id = ? AND revoked_at IS NULL",
      ),
    };
  }

  /** Makes a token; the text is given here and never again. */
  make(app: string, kind: TokenKind, name: string, now: number): { token: StoredToken; text: string } {
    const id = newId("tok");
    const text = beginnings[kind] + randomBytes(24).toString("base64url");
    const hint = text.slice(-4);
    if (kind === "site") this.sql.insertSite.run({ id, app, name, sealed: this.seal.close(text), hint, now });
    else this.sql.insert.run({ id, app, kind, name, hash: hashOf(text), hint, now });
    return { token: { id, app, kind, name, hint, createdAt: now, usedAt: null }, text };
  }

  /** The tokens of an app that are good, in the order in which they were made. */
  ofApp(app: string): StoredToken[] {
    return this.sql.ofApp.all({ app }).map(read);
  }

  /** The secrets that sites of an app sign with; one that was sealed under a key that is lost is none. */
  sitesOf(app: string): SiteSecret[] {
    return this.sql.sites.all(app).flatMap(({ id, sealed }) => {
      const secret = this.seal.open(sealed);
      return secret === undefined ? [] : [{ id, secret }];
    });
  }

  /** Notes that something was called with what a site signed. */
  useSite(id: string, now: number): void {
    this.sql.useSite.run({ id, now, before: now - usedLately });
  }

  /** The token of an app that a text is, which counts as a use of it. */
  use(app: string, text: string, now: number): StoredToken | undefined {
    const row = this.sql.byHash.get(hashOf(text), app);
    if (!row) return undefined;
    if (now - (row.used_at ?? 0) > usedLately) this.sql.use.run(now, row.id);
    return read(row);
  }

  /** Whether a token was not revoked. */
  isGood(id: string): boolean {
    return this.sql.isGood.get({ id }) !== undefined;
  }

  /** Ends a token for good; false where there is none. */
  revoke(app: string, id: string, now: number): boolean {
    return this.sql.revoke.run(now, id, app).changes + this.sql.revokeSite.run(now, id, app).changes > 0;
  }
}

/** Whether a text looks like a token of ours, good or not. */
export function looksLikeToken(text: string): boolean {
  return Object.values(beginnings).some((beginning) => text.startsWith(beginning));
}

function hashOf(text: string): string {
  return createHash("sha256").update(text).digest("hex");
}

function read(row: TokenRow): StoredToken {
  const { id, kind, name, hint } = row;
  return { id, app: row.app_id, kind, name, hint, createdAt: row.created_at, usedAt: row.used_at };
}

/** A parameter that has `tokens`. */
export interface HasTokens {
  tokens: TokenStore;
}
