import { createHash } from "node:crypto";
import type { Database } from "../database/database";

/** A call that was made under an idempotency key. */
export interface KeyedCall {
  app: string;
  /** Who called; empty for a caller without an identity, who is known by the key alone. */
  caller: string;
  key: string;
  /** The body as it came. */
  body: string;
}

/** Calls under an idempotency key, and the replies that they gave; kept for 24 hours. */
export class IdempotencyStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      find: database.prepare<[string, string, string], { body_hash: string; reply_id: string }>(
        "SELECT body_hash, reply_id FROM idempotent_calls WHERE app_id = ? AND caller = ? AND key = ?",
      ),
      insert: database.prepare(
        "INSERT INTO idempotent_calls (app_id, caller, key, body_hash, reply_id, at) VALUES (@app, @caller, @key, @hash, @reply, @now)",
      ),
      purge: database.prepare("DELETE FROM idempotent_calls WHERE at < ?"),
    };
  }

  /** The reply that a call gave before, and whether its body was this one. */
  find(call: KeyedCall): { reply: string; sameBody: boolean } | undefined {
    const row = this.sql.find.get(call.app, call.caller, call.key);
    return row && { reply: row.reply_id, sameBody: row.body_hash === hashOf(call.body) };
  }

  add({ app, caller, key, body }: KeyedCall, reply: string, now: number): void {
    this.sql.insert.run({ app, caller, key, hash: hashOf(body), reply, now });
  }

  /** Forgets the calls that were made before a moment. */
  purge(before: number): void {
    this.sql.purge.run(before);
  }
}

function hashOf(body: string): string {
  return createHash("sha256").update(body).digest("hex");
}
