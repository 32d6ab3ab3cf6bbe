import type { Usage } from "@/core/reply/events";
import type { Database } from "../database/database";
import type { Purpose } from "../making/types";

/** What a call was made for. */
export interface SpentOn {
  app: string | null;
  revision: number | null;
  /** The hash of the content that the words are of; null where they are of none. */
  content: string | null;
  /** What it was for, where that is no reply of its own. */
  owner: string | null;
  origin: string;
  purpose: Purpose;
}

/** What was spent: append-only, in whole millionths, without a word of what was said. */
export class SpendStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      add: database.prepare(
        `INSERT INTO spend (at, app_id, revision, content, owner, provider, model, origin, purpose, input, output,
           cached, written, thought, price, currency)
         VALUES (@at, @app, @revision, @content, @owner, @provider, @model, @origin, @purpose, @input, @output,
           @cached, @written, @thought, @price, @currency)`,
      ),
      // served by spend_by_app
      since: database
        .prepare<[string, number]>("SELECT coalesce(sum(price), 0) FROM spend WHERE app_id = ? AND at >= ?")
        .pluck(),
    };
  }

  /** What an app spent from a moment on, in millionths. @param since epoch milliseconds */
  since(app: string, since: number): number {
    return this.sql.since.get(app, since) as number;
  }

  /** Notes what one call took. @param at epoch milliseconds */
  add(on: SpentOn, { provider, model }: { provider: string; model: string }, usage: Usage, at: number): void {
    const { input, output, cachedInput: cached = 0, cacheWrite: written = 0, thought = 0, currency } = usage;
    const price = Math.round(usage.price * 1_000_000);
    this.sql.add.run({ ...on, provider, model, at, input, output, cached, written, thought, price, currency });
  }
}

/** A parameter that has `spend`. */
export interface HasSpend {
  spend: SpendStore;
}
