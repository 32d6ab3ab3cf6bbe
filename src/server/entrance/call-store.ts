import type { Problem } from "@/core/problem/problem";
import type { Usage } from "@/core/reply/events";
import type { ReplyState } from "@/core/reply/reply";
import type { Database } from "../database/database";

/** A call of an app's endpoints as it came in. */
export interface CallSeen {
  id: string;
  app: string;
  method: string;
  path: string;
  origin: "page" | "http" | "terminal";
  /** The name that the front end gives itself. */
  client: string | null;
  /** The endpoints' own shape, or the one that most model servers share. */
  shape: "own" | "common";
  /** As it is named, or its id. */
  visitor: string | null;
  /** The origin of another's page. */
  webOrigin: string | null;
  address: string;
}

/** A call of an endpoint with what came of it. */
export interface StoredCall extends CallSeen {
  at: number;
  status: number;
  problem: Problem | null;
  reply: string | null;
  /** Of its reply, once that has ended. */
  ended: { state: ReplyState; at: number; firstTextMs: number | null; usage: CallUsage | null } | null;
}

/** What a call took. */
export type CallUsage = Pick<Usage, "input" | "output" | "price" | "currency">;

interface CallRow {
  id: string;
  app_id: string;
  at: number;
  method: string;
  path: string;
  origin: CallSeen["origin"];
  client: string | null;
  shape: CallSeen["shape"];
  visitor: string | null;
  web_origin: string | null;
  address: string;
  status: number;
  problem: string | null;
  reply_id: string | null;
  state: ReplyState | null;
  ended_at: number | null;
  first_text_ms: number | null;
  input: number | null;
  output: number | null;
  price: number | null;
  currency: string | null;
}

interface SinceRow {
  calls: number;
  ofPage: number;
  price: number | null;
  currency: string | null;
}

/** Calls of an app that are kept. */
export const mostKept = 5_000;
/** Calls after which the oldest ones are looked for, however fast they come. */
const looksAfter = 500;
const longestPath = 300;

/** The calls of the endpoints of all apps: those that asked for a reply, and those that were refused. */
export class CallStore {
  private readonly sql;
  private added = 0;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO calls (id, app_id, at, method, path, origin, client, shape, visitor, web_origin, address, status, problem, reply_id)
         VALUES (@id, @app, @at, @method, @path, @origin, @client, @shape, @visitor, @webOrigin, @address, @status, @problem, @reply)
         ON CONFLICT (id) DO UPDATE SET status = excluded.status, problem = excluded.problem`,
      ),
      // served by calls_by_reply
      end: database.prepare(
        `UPDATE calls SET state = @state, ended_at = @now, first_text_ms = @firstTextMs,
           input = @input, output = @output, price = @price, currency = @currency
         WHERE reply_id = @reply`,
      ),
      fail: database.prepare("UPDATE calls SET status = ?, problem = ? WHERE reply_id = ?"),
      byId: database.prepare<[string], CallRow>("SELECT * FROM calls WHERE id = ?"),
      // served by calls_by_app
      ofApp: database.prepare<[string, string, number], CallRow>(
        "SELECT * FROM calls WHERE app_id = ? AND id < ? ORDER BY id DESC LIMIT ?",
      ),
      // served by calls_refused
      refused: database.prepare<[string, string, number], CallRow>(
        "SELECT * FROM calls WHERE app_id = ? AND reply_id IS NULL AND id < ? ORDER BY id DESC LIMIT ?",
      ),
      failed: database.prepare<[string, string, number], CallRow>(
        `SELECT * FROM calls WHERE app_id = ? AND (reply_id IS NULL OR state NOT IN ('complete', 'stopped')) AND id < ?
         ORDER BY id DESC LIMIT ?`,
      ),
      since: database.prepare<[string, number], SinceRow>(
        `SELECT count(*) AS calls, count(*) FILTER (WHERE origin = 'page') AS ofPage,
           sum(price) AS price, max(currency) AS currency
         FROM calls WHERE app_id = ? AND at >= ?`,
      ),
      forget: database.prepare(
        `DELETE FROM calls WHERE app_id = @app AND id <= (
           SELECT id FROM calls WHERE app_id = @app ORDER BY id DESC LIMIT 1 OFFSET @kept
         )`,
      ),
    };
  }

  /** Notes a call; one that was noted before, and refused in the end, with what it then got. */
  add(seen: CallSeen, came: Pick<StoredCall, "status" | "problem" | "reply">, now: number): void {
    const { problem, ...rest } = came;
    this.sql.insert.run({
      at: now,
      ...seen,
      path: seen.path.slice(0, longestPath),
      ...rest,
      problem: problem && JSON.stringify(problem),
    });
    if (++this.added % looksAfter === 0) this.forget(seen.app);
  }

  /** Notes how the reply of a call ended, where it was a call that asked for it. */
  end(reply: string, state: ReplyState, firstTextMs: number | null, usage: CallUsage | null, now: number): void {
    const { input = null, output = null, price = null, currency = null } = usage ?? {};
    this.sql.end.run({ reply, state, firstTextMs, input, output, price, currency, now });
  }

  /** Notes that who asked for a reply got another status than it was to get, since the reply failed. */
  fail(reply: string, status: number, problem: Problem): void {
    this.sql.fail.run(status, JSON.stringify(problem), reply);
  }

  byId(id: string): StoredCall | undefined {
    const row = this.sql.byId.get(id);
    return row && read(row);
  }

  /** A page of an app's calls, the latest first. @param before the id of a call that comes after all of them */
  ofApp(app: string, only: "all" | "refused" | "failed", before: string | undefined, count: number): StoredCall[] {
    const sql = { all: this.sql.ofApp, refused: this.sql.refused, failed: this.sql.failed }[only];
    return sql.all(app, before ?? "~", count).map(read);
  }

  /** How many calls there were since a moment, how many of them from the page, and what their replies cost. */
  since(app: string, moment: number): { calls: number; ofPage: number; price: number; currency: string } {
    const { calls = 0, ofPage = 0, price, currency } = this.sql.since.get(app, moment) ?? {};
    return { calls, ofPage, price: price ?? 0, currency: currency ?? "EUR" };
  }

  /** Forgets the oldest calls of an app beyond those that are kept. */
  forget(app: string): void {
    this.sql.forget.run({ app, kept: mostKept });
  }
}

function read(row: CallRow): StoredCall {
  const { state, ended_at, first_text_ms, input, output, price, currency } = row;
  const isCounted = input !== null && output !== null && price !== null && currency !== null;
  return {
    id: row.id,
    app: row.app_id,
    at: row.at,
    method: row.method,
    path: row.path,
    origin: row.origin,
    client: row.client,
    shape: row.shape,
    visitor: row.visitor,
    webOrigin: row.web_origin,
    address: row.address,
    status: row.status,
    problem: row.problem === null ? null : JSON.parse(row.problem),
    reply: row.reply_id,
    ended:
      state === null || ended_at === null
        ? null
        : {
            state,
            at: ended_at,
            firstTextMs: first_text_ms,
            usage: isCounted ? { input, output, price, currency } : null,
          },
  };
}

/** A parameter that has `calls`. */
export interface HasCalls {
  calls: CallStore;
}
