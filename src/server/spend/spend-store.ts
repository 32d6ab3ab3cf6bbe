import type { Usage } from "@/core/reply/events";
import type { Database } from "../database/database";

/** What a call was made for. */
export interface SpentOn {
  app: string | null;
  revision: number | null;
  origin: string;
  purpose: string;
}

/** What was spent: append-only, in whole millionths, without a word of what was said. */
export class SpendStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      add: database.prepare(
        `INSERT INTO spend (at, app_id, revision, provider, model, origin, purpose, input, output, price, currency)
         VALUES (@at, @app, @revision, @provider, @model, @origin, @purpose, @input, @output, @price, @currency)`,
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
    const { input, output, price, currency } = usage;
    this.sql.add.run({ ...on, provider, model, at, input, output, price: Math.round(price * 1_000_000), currency });
  }
}
