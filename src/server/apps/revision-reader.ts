import type { ToldRevision } from "@/contract/revisions";
import type { ReplyState } from "@/core/reply/reply";
import { contentSchema } from "@/core/revision/content";
import type { Database } from "../database/database";

/** Reads what came of the revisions of an app. It goes through all of its replies, and is made for a thread of its own. */
export class RevisionReader {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      page: database.prepare<[string, number, number], { number: number; at: number; note: string; content: string }>(
        `SELECT number, created_at AS at, note, content FROM revisions JOIN contents ON hash = content_hash
         WHERE app_id = ? AND number < ? ORDER BY number DESC LIMIT ?`,
      ),
      // served by conversations_of_app and replies_by_maker
      replies: database.prepare<[string, number, number], { revision: number; state: ReplyState; count: number }>(
        `SELECT made_at_revision AS revision, state, count(*) AS count
         FROM conversations AS c JOIN messages AS m ON m.conversation_id = c.id
         WHERE c.app_id = ? AND c.deleted_at IS NULL AND m.role = 'app' AND m.is_leaving = 0
           AND made_at_revision BETWEEN ? AND ? AND json_extract(facts, '$.hand') IS NULL
         GROUP BY 1, 2`,
      ),
      // served by spend_by_app
      spend: database.prepare<[string, number, number], { revision: number; price: number; currency: string }>(
        `SELECT revision, sum(price) AS price, max(currency) AS currency FROM spend
         WHERE app_id = ? AND revision BETWEEN ? AND ? GROUP BY revision`,
      ),
    };
  }

  /** Revisions before a number, the newest first, up to so many. */
  page(app: string, before: number, count: number): ToldRevision[] {
    const rows = this.sql.page.all(app, before, count);
    const [first, last] = [rows.at(-1)?.number ?? 0, rows[0]?.number ?? 0];
    const replies = this.sql.replies.all(app, first, last);
    const spend = new Map(this.sql.spend.all(app, first, last).map((each) => [each.revision, each]));
    return rows.map(({ number, at, note, content }) => {
      const spent = spend.get(number);
      return {
        number,
        at,
        note,
        content: contentSchema.parse(JSON.parse(content)),
        replies: Object.fromEntries(
          replies.filter(({ revision }) => revision === number).map(({ state, count }) => [state, count]),
        ),
        price: spent ? { amount: spent.price / 1_000_000, currency: spent.currency } : null,
      };
    });
  }
}
