import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** Where a conversation came from. */
export type Origin = "bench" | "page" | "http" | "terminal" | "job" | "imported" | "lane" | "duet";

/** A conversation as it is stored. `visitor` is null for the bench's own. */
export interface StoredConversation {
  id: string;
  app: string;
  visitor: string | null;
  origin: Origin;
  /** The name that the front end gave itself. */
  client: string | null;
  /** Whether its caller holds it: it is listed nowhere, and deleted soon after its end. */
  isPassing: boolean;
  /** Whether something else owns it, such as a comparison: it is listed nowhere, and kept for as long as that is. */
  isOwned: boolean;
  /** Turns of the line that is shown. */
  turns: number;
  /** Tokens of all its messages: of replies as their provider counted them, else as estimated. */
  tokens: number;
  /** The end of the line that is shown. */
  tip: string | null;
  /** The end of the line that the bench looks at, where it is another one. */
  benchTip: string | null;
  opening: string;
  /** As the developer named it. */
  title: string | null;
  /** As its visitor did. */
  visitorTitle: string | null;
  note: string;
  /** The conversation that it says again. */
  saidAgain: string | null;
  /** What all of its replies cost, in millionths. */
  price: number;
  currency: string;
  createdAt: number;
  updatedAt: number;
}

/** A place in a list of conversations: all that come after it in the list were touched before it. */
export interface ListPlace {
  updatedAt: number;
  id: string;
}

interface ConversationRow {
  id: string;
  app_id: string;
  visitor_id: string | null;
  origin: Origin;
  client: string | null;
  unlisted: number;
  turns: number;
  tokens: number;
  tip_id: string | null;
  bench_tip_id: string | null;
  opening: string;
  title: string | null;
  visitor_title: string | null;
  note: string;
  said_again: string | null;
  price: number;
  currency: string;
  created_at: number;
  updated_at: number;
}

const longestOpening = 160;
/** Why a conversation stands in no list. */
const unlisted = { passing: 1, owned: 2 } as const;

/** What is not to be seen yet is deleted in a time that never comes; a conversation that is not even whole, just before. */
export const notYet = 8_640_000_000_000_000;
export const underWay = notYet - 1;
/** Conversations that are brought into sight in one write. */
const shownAtOnce = 200;

/** Conversations: what is known of each, who sees it, and how it is taken away. */
export class ConversationStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO conversations (id, app_id, visitor_id, origin, client, unlisted, opening, number, created_at, updated_at)
         VALUES (@id, @app, @visitor, @origin, @client, @unlisted, @opening,
           (SELECT coalesce(max(number), 0) + 1 FROM conversations), @now, @now)`,
      ),
      byId: database.prepare<[string], ConversationRow>(
        `SELECT * FROM conversations WHERE id = ? AND deleted_at IS NULL
           AND app_id NOT IN (SELECT id FROM apps WHERE is_leaving = 1)`,
      ),
      stored: database.prepare<[string], ConversationRow>("SELECT * FROM conversations WHERE id = ?"),
      madeBy: database.prepare("UPDATE conversations SET job_id = ?, said_again = ? WHERE id = ?"),
      spend: database.prepare("UPDATE conversations SET price = price + ?, currency = ? WHERE id = ?"),
      // served by conversations_by_app
      lastOfBench: database
        .prepare<[string], string>(
          `SELECT id FROM conversations WHERE app_id = ? AND deleted_at IS NULL AND unlisted = 0 AND origin = 'bench'
           ORDER BY updated_at DESC, id DESC LIMIT 1`,
        )
        .pluck(),
      // served by conversations_by_app
      lastOf: database.prepare<[string], ConversationRow>(
        `SELECT * FROM conversations WHERE app_id = ? AND deleted_at IS NULL AND unlisted = 0
         ORDER BY updated_at DESC, id DESC LIMIT 1`,
      ),
      // served by conversations_by_visitor
      ofVisitor: database.prepare<[string, string, number, string, number], ConversationRow>(
        `SELECT * FROM conversations WHERE visitor_id = ? AND app_id = ? AND deleted_at IS NULL AND unlisted = 0
           AND (updated_at, id) < (?, ?)
         ORDER BY updated_at DESC, id DESC LIMIT ?`,
      ),
      hide: database.prepare("UPDATE conversations SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL"),
      restore: database.prepare("UPDATE conversations SET deleted_at = NULL WHERE id = ? AND is_leaving = 0"),
      leave: database.prepare(
        "UPDATE conversations SET is_leaving = 1, deleted_at = coalesce(deleted_at, ?) WHERE id = ?",
      ),
      leaveHidden: database.prepare("UPDATE conversations SET is_leaving = 1 WHERE deleted_at < ? AND is_leaving = 0"),
      // served by conversations_by_job
      leaveUnseenOf: database.prepare(
        "UPDATE conversations SET is_leaving = 1 WHERE job_id = ? AND deleted_at >= ? AND is_leaving = 0",
      ),
      leaveUnseen: database.prepare(
        `UPDATE conversations SET is_leaving = 1 WHERE deleted_at >= ? AND is_leaving = 0
           AND (job_id IS NULL OR job_id NOT IN (SELECT id FROM jobs WHERE state IN ('waiting', 'running')))`,
      ),
      showSome: database.prepare(
        `UPDATE conversations SET deleted_at = NULL WHERE id IN (
           SELECT id FROM conversations WHERE job_id = ? AND deleted_at = ? LIMIT ?)`,
      ),
      // served by conversations_passing
      leavePassing: database.prepare(
        `UPDATE conversations SET is_leaving = 1, deleted_at = coalesce(deleted_at, @now) WHERE unlisted = 1 AND is_leaving = 0
           AND id NOT IN (SELECT conversation_id FROM messages WHERE state IN ('waiting', 'arriving'))`,
      ),
      idsOfVisitor: database.prepare<[string], { id: string }>(
        "SELECT id FROM conversations WHERE visitor_id = ? AND is_leaving = 0",
      ),
      // what still arrives in a conversation ends before it goes; served by conversations_leaving
      nextLeaving: database.prepare<[], { id: string }>(
        `SELECT id FROM conversations WHERE is_leaving = 1
           AND id NOT IN (SELECT conversation_id FROM messages WHERE state IN ('waiting', 'arriving')) LIMIT 1`,
      ),
      // served by conversations_of_app
      nextOfLeavingApp: database.prepare<[], { id: string }>(
        `SELECT conversations.id FROM apps JOIN conversations ON conversations.app_id = apps.id WHERE apps.is_leaving = 1
           AND conversations.id NOT IN (SELECT conversation_id FROM messages WHERE state IN ('waiting', 'arriving')) LIMIT 1`,
      ),
      dropTip: database.prepare(
        "UPDATE conversations SET tip_id = NULL, bench_tip_id = NULL WHERE id = ? AND tip_id IS NOT NULL",
      ),
      // served by messages_by_conversation
      deleteDeepest: database.prepare<[string, number]>(
        `DELETE FROM messages WHERE id IN (
           SELECT id FROM messages WHERE conversation_id = ? ORDER BY depth DESC LIMIT ?
         )`,
      ),
      delete: database.prepare<[string], { visitor_id: string | null }>(
        "DELETE FROM conversations WHERE id = ? RETURNING visitor_id",
      ),
      ofMessage: database
        .prepare<[string]>("SELECT conversation_id FROM messages WHERE id = ? AND is_leaving = 0")
        .pluck(),
    };
  }

  /** @param id where whoever begins it has one for it */
  create({
    id = newId("con"),
    app,
    visitor,
    origin,
    client = null,
    isPassing = false,
    isOwned = false,
    opening,
    now,
  }: {
    id?: string;
    app: string;
    visitor: string | null;
    origin: Origin;
    client?: string | null;
    isPassing?: boolean;
    isOwned?: boolean;
    opening: string;
    now: number;
  }): StoredConversation {
    const start = opening.replace(/\s+/g, " ").trim().slice(0, longestOpening);
    const why = isPassing ? unlisted.passing : isOwned ? unlisted.owned : 0;
    this.sql.insert.run({ id, app, visitor, origin, client, unlisted: why, opening: start, now });
    return this.byId(id) as StoredConversation;
  }

  byId(id: string): StoredConversation | undefined {
    const row = this.sql.byId.get(id);
    return row && readConversation(row);
  }

  /** A conversation whether it is in sight or not. */
  stored(id: string): StoredConversation | undefined {
    const row = this.sql.stored.get(id);
    return row && readConversation(row);
  }

  /** The conversation of an app that was last gone on with among those begun on the bench; undefined where there is none. */
  lastOfBench(app: string): string | undefined {
    return this.sql.lastOfBench.get(app);
  }

  /** The conversation of an app that was last gone on with, whosever it is; undefined where there is none. */
  lastOf(app: string): StoredConversation | undefined {
    const row = this.sql.lastOf.get(app);
    return row && readConversation(row);
  }

  /** A page of a visitor's conversations with an app, the last touched first. */
  ofVisitor(visitor: string, app: string, after: ListPlace, count: number): StoredConversation[] {
    return this.sql.ofVisitor.all(visitor, app, after.updatedAt, after.id, count).map(readConversation);
  }

  /** Takes a conversation out of sight; it can be restored until it is purged. */
  hide(id: string, now: number): void {
    this.sql.hide.run(now, id);
  }

  restore(id: string): boolean {
    return this.sql.restore.run(id).changes > 0;
  }

  /** Takes a conversation out of sight for good; it is deleted by and by. */
  leave(id: string, now: number): void {
    this.sql.leave.run(now, id);
  }

  /** Takes out of sight for good what was hidden before a moment; it is deleted by and by. */
  leaveHidden(before: number): void {
    this.sql.leaveHidden.run(before);
  }

  /** Deletes what a job made and did not bring into sight. */
  leaveUnseenOf(job: string): void {
    this.sql.leaveUnseenOf.run(job, underWay);
  }

  /** Deletes what no job that goes on will bring into sight. */
  leaveUnseen(): void {
    this.sql.leaveUnseen.run(underWay);
  }

  /** Brings some of what a job made whole into sight; false once all of it is. */
  showSome(job: string): boolean {
    return this.sql.showSome.run(job, notYet, shownAtOnce).changes > 0;
  }

  /** Takes out of sight for good what was never to be kept and has ended. */
  leavePassing(now: number): void {
    this.sql.leavePassing.run({ now });
  }

  /** The ids of all that a visitor said in, whatever is listed of it. */
  idsOfVisitor(visitor: string): string[] {
    return this.sql.idsOfVisitor.all(visitor).map(({ id }) => id);
  }

  /** A conversation that is to be deleted for good, and in which nothing arrives any more. */
  nextLeaving(): string | undefined {
    return (this.sql.nextLeaving.get() ?? this.sql.nextOfLeavingApp.get())?.id;
  }

  /** Deletes the deepest messages of a conversation; false when there are none. */
  deleteDeepest(id: string, count: number): boolean {
    this.sql.dropTip.run(id);
    return this.sql.deleteDeepest.run(id, count).changes > 0;
  }

  /** Deletes a conversation that holds no message. @returns its visitor, where it had one */
  delete(id: string): string | undefined {
    return this.sql.delete.get(id)?.visitor_id ?? undefined;
  }

  /** The conversation that a message belongs to. */
  conversationOf(message: string): StoredConversation | undefined {
    const id = this.sql.ofMessage.get(message) as string | undefined;
    return id === undefined ? undefined : this.byId(id);
  }

  /** Notes the job that made a conversation, and the one that it says again. */
  madeBy(conversation: string, job: string, saidAgain: string): void {
    this.sql.madeBy.run(job, saidAgain, conversation);
  }

  /** Adds what a call cost to what its conversation did. @param price in the currency */
  spend(conversation: string, price: number, currency: string): void {
    this.sql.spend.run(Math.round(price * 1_000_000), currency, conversation);
  }
}

function readConversation(row: ConversationRow): StoredConversation {
  return {
    id: row.id,
    app: row.app_id,
    visitor: row.visitor_id,
    origin: row.origin,
    client: row.client,
    isPassing: row.unlisted === unlisted.passing,
    isOwned: row.unlisted === unlisted.owned,
    turns: row.turns,
    tokens: row.tokens,
    tip: row.tip_id,
    benchTip: row.bench_tip_id,
    opening: row.opening,
    title: row.title,
    visitorTitle: row.visitor_title,
    note: row.note,
    saidAgain: row.said_again,
    price: row.price,
    currency: row.currency,
    createdAt: row.created_at,
    updatedAt: row.updated_at,
  };
}

/** A parameter that has `conversations`. */
export interface HasConversations {
  conversations: ConversationStore;
}
