import { createHash } from "node:crypto";
import type { Database } from "../database/database";

/** A call that somebody made under an idempotency key. */
export interface OwnedCall {
  app: string;
  /** The identity of who called. */
  caller: string;
  key: string;
  /** The body as it came. */
  body: string;
}

/** Milliseconds that a key holds. */
const day = 24 * 60 * 60 * 1000;

/** Calls under an idempotency key, and the replies that they gave; kept for 24 hours. */
export class IdempotencyStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      find: database.prepare<
        [string, string, string, number],
        { body_hash: string; reply_id: string; further: string | null }
      >(
        "SELECT body_hash, reply_id, further FROM idempotent_calls WHERE app_id = ? AND caller = ? AND key = ? AND at > ?",
      ),
      insert: database.prepare(
        "INSERT OR REPLACE INTO idempotent_calls (app_id, caller, key, body_hash, reply_id, further, at) VALUES (@app, @caller, @key, @hash, @reply, @further, @now)",
      ),
      forget: database.prepare("DELETE FROM idempotent_calls WHERE at < ?"),
    };
  }

  /** The reply that a call gave within the day before a moment, its further takes, and whether its body was this one. */
  find(call: OwnedCall, now: number): { reply: string; further: string[]; sameBody: boolean } | undefined {
    const row = this.sql.find.get(call.app, call.caller, call.key, now - day);
    if (!row) return undefined;
    const further = row.further === null ? [] : (JSON.parse(row.further) as string[]);
    return { reply: row.reply_id, further, sameBody: row.body_hash === hashOf(call.body) };
  }

  add({ app, caller, key, body }: OwnedCall, reply: string, further: readonly string[], now: number): void {
    const more = further.length === 0 ? null : JSON.stringify(further);
    this.sql.insert.run({ app, caller, key, hash: hashOf(body), reply, further: more, now });
  }

  /** Forgets the calls whose day is over. */
  forget(now: number): void {
    this.sql.forget.run(now - day);
  }
}

function hashOf(body: string): string {
  return createHash("sha256").update(body).digest("hex");
}

/** A parameter that has `idempotency`. */
export interface HasIdempotency {
  idempotency: IdempotencyStore;
}
