import type { Caught, GuardAct } from "@/core/guards/guard";
import type { Database } from "../database/database";

/** What was caught at a reply, and where. */
export interface StoredCaught extends Caught {
  id: number;
  conversation: string;
  /** The reply. */
  reply: string;
  /** Epoch milliseconds. */
  at: number;
}

/** Which of it is wanted; all where nothing is said. */
export interface CaughtFilter {
  guard?: string;
  does?: GuardAct;
  what?: Caught["what"];
  /** From then on, in epoch milliseconds. */
  since?: number;
}

/** How often guards caught something. */
export interface CaughtCount {
  guard: string;
  does: GuardAct;
  what: Caught["what"];
  /** Things, and the replies that they were caught at. */
  times: number;
  replies: number;
}

const where = `app_id = @app AND (@guard IS NULL OR guard = @guard) AND (@does IS NULL OR does = @does)
  AND (@what IS NULL OR what = @what) AND (@since IS NULL OR at >= @since)`;

/** What guards caught, by app. It goes with the conversation that it was caught in. */
export class CaughtStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      add: database.prepare(
        `INSERT INTO caught (app_id, conversation_id, message_id, guard, stands, does, what, times, at)
         SELECT @app, @conversation, @reply, @guard, @on, @does, @what, @times, @at
         WHERE EXISTS (SELECT 1 FROM messages WHERE id = @reply)`,
      ),
      // served by caught_by_app: from the newest on
      page: database.prepare<[Filled & { before: number; count: number }], StoredCaught>(
        `SELECT id, conversation_id AS conversation, message_id AS reply, guard, stands AS "on", does, what, times, at
         FROM caught WHERE ${where} AND id < @before ORDER BY id DESC LIMIT @count`,
      ),
      counts: database.prepare<[Filled], CaughtCount>(
        `SELECT guard, does, what, SUM(times) AS times, COUNT(DISTINCT message_id) AS replies
         FROM caught WHERE ${where} GROUP BY guard, does, what ORDER BY times DESC, guard, what`,
      ),
    };
  }

  /** Adds what was caught at a reply; nothing where that was deleted meanwhile. */
  add(of: { app: string; conversation: string; reply: string; at: number }, all: readonly Caught[]): void {
    for (const caught of all) this.sql.add.run({ ...of, ...caught });
  }

  /** Some of what was caught in an app, the newest first. @param before an id */
  page(app: string, filter: CaughtFilter, before: number | undefined, count: number): StoredCaught[] {
    return this.sql.page.all({ ...filled(app, filter), before: before ?? Number.MAX_SAFE_INTEGER, count });
  }

  /** How often each guard of an app caught what. */
  counts(app: string, filter: CaughtFilter): CaughtCount[] {
    return this.sql.counts.all(filled(app, filter));
  }
}

interface Filled {
  app: string;
  guard: string | null;
  does: string | null;
  what: string | null;
  since: number | null;
}

function filled(app: string, { guard = "", does, what, since }: CaughtFilter): Filled {
  return { app, guard: guard || null, does: does ?? null, what: what ?? null, since: since ?? null };
}

/** A parameter that has `caught`. */
export interface HasCaught {
  caught: CaughtStore;
}
