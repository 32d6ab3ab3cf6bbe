import { createHash, randomBytes } from "node:crypto";
import type { Database } from "../database/database";
import { newId } from "../id";

/** A server token may name any visitor; a public one, which anybody can read in a page, opens visitors of its own. */
export type TokenKind = "server" | "public";

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
const beginnings: Record<TokenKind, string> = { server: "finch_server_", public: "finch_public_" };
/** Milliseconds within which one use is like another. */
const usedLately = 10_000;

/** Tokens that front ends call with: each is shown once, and kept as a hash. */
export class TokenStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO tokens (id, app_id, kind, name, hash, hint, created_at)
         VALUES (@id, @app, @kind, @name, @hash, @hint, @now)`,
      ),
      // served by tokens_by_app
      ofApp: database.prepare<[string], TokenRow>(
        "SELECT * FROM tokens WHERE app_id = ? AND revoked_at IS NULL ORDER BY id",
      ),
      byHash: database.prepare<[string, string], TokenRow>(
        "SELECT * FROM tokens WHERE hash = ? AND app_id = ? AND revoked_at IS NULL",
      ),
      isGood: database.prepare<[string]>("SELECT 1 FROM tokens WHERE id = ? AND revoked_at IS NULL"),
      use: database.prepare("UPDATE tokens SET used_at = ? WHERE id = ?"),
      revoke: database.prepare("UPDATE tokens SET revoked_at = ? WHERE id = ? AND app_id = ? AND revoked_at IS NULL"),
    };
  }

  /** Makes a token; the text is given here and never again. */
  make(app: string, kind: TokenKind, name: string, now: number): { token: StoredToken; text: string } {
    const id = newId("tok");
    const text = beginnings[kind] + randomBytes(24).toString("base64url");
    const hint = text.slice(-4);
    this.sql.insert.run({ id, app, kind, name, hash: hashOf(text), hint, now });
    return { token: { id, app, kind, name, hint, createdAt: now, usedAt: null }, text };
  }

  /** The tokens of an app that are good, in the order in which they were made. */
  ofApp(app: string): StoredToken[] {
    return this.sql.ofApp.all(app).map(read);
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
    return this.sql.isGood.get(id) !== undefined;
  }

  /** Ends a token for good; false where there is none. */
  revoke(app: string, id: string, now: number): boolean {
    return this.sql.revoke.run(now, id, app).changes > 0;
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
