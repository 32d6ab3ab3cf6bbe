import type { AppMessage, Message, Piece, ReplyFacts, VisitorMessage } from "@/core/conversation/message";
import type { ReplyState } from "@/core/reply/reply";
import type { Database } from "../database/database";
import { newId } from "../id";

/** A conversation as it is stored. `visitor` is null for the bench's own. */
export interface StoredConversation {
  id: string;
  app: string;
  visitor: string | null;
  /** The end of the line that is shown. */
  tip: string | null;
  opening: string;
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
  tip_id: string | null;
  opening: string;
  created_at: number;
  updated_at: number;
}

interface MessageRow {
  id: string;
  conversation_id: string;
  parent_id: string | null;
  depth: number;
  role: "visitor" | "app";
  pieces: string;
  tokens: number;
  state: ReplyState | null;
  continues: string | null;
  facts: string | null;
  created_at: number;
}

const longestOpening = 160;

/** Conversations and the trees of their messages. */
export class ConversationStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        "INSERT INTO conversations (id, app_id, visitor_id, opening, created_at, updated_at) VALUES (@id, @app, @visitor, @opening, @now, @now)",
      ),
      byId: database.prepare<[string], ConversationRow>(
        `SELECT * FROM conversations WHERE id = ? AND deleted_at IS NULL
           AND app_id NOT IN (SELECT id FROM apps WHERE is_leaving = 1)`,
      ),
      setTip: database.prepare("UPDATE conversations SET tip_id = ?, updated_at = ? WHERE id = ?"),
      // served by conversations_by_app
      ofApp: database.prepare<[string, number, number, string, number], ConversationRow>(
        `SELECT * FROM conversations WHERE app_id = ? AND deleted_at IS NULL AND (updated_at < ? OR updated_at = ? AND id < ?)
         ORDER BY updated_at DESC, id DESC LIMIT ?`,
      ),
      // served by conversations_by_visitor
      ofVisitor: database.prepare<[string, string, number, number, string, number], ConversationRow>(
        `SELECT * FROM conversations WHERE visitor_id = ? AND app_id = ? AND deleted_at IS NULL
           AND (updated_at < ? OR updated_at = ? AND id < ?)
         ORDER BY updated_at DESC, id DESC LIMIT ?`,
      ),
      hide: database.prepare("UPDATE conversations SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL"),
      restore: database.prepare("UPDATE conversations SET deleted_at = NULL WHERE id = ? AND is_leaving = 0"),
      leave: database.prepare(
        "UPDATE conversations SET is_leaving = 1, deleted_at = coalesce(deleted_at, ?) WHERE id = ?",
      ),
      leaveHidden: database.prepare("UPDATE conversations SET is_leaving = 1 WHERE deleted_at < ? AND is_leaving = 0"),
      // what still arrives in a conversation ends before it goes
      nextLeaving: database.prepare<[], { id: string }>(
        `SELECT id FROM conversations
         WHERE (is_leaving = 1 OR app_id IN (SELECT id FROM apps WHERE is_leaving = 1))
           AND id NOT IN (SELECT conversation_id FROM messages WHERE state IN ('waiting', 'arriving'))
         LIMIT 1`,
      ),
      dropTip: database.prepare("UPDATE conversations SET tip_id = NULL WHERE id = ? AND tip_id IS NOT NULL"),
      // served by messages_by_conversation
      deleteDeepest: database.prepare<[string, number]>(
        `DELETE FROM messages WHERE id IN (
           SELECT id FROM messages WHERE conversation_id = ? ORDER BY depth DESC LIMIT ?
         )`,
      ),
      delete: database.prepare("DELETE FROM conversations WHERE id = ?"),
      message: database.prepare<[string], MessageRow>("SELECT * FROM messages WHERE id = ?"),
      insertMessage: database.prepare(
        `INSERT INTO messages (id, conversation_id, parent_id, depth, role, pieces, tokens, state, continues, facts, created_at)
         VALUES (@id, @conversation, @parent, @depth, @role, @pieces, @tokens, @state, @continues, @facts, @now)`,
      ),
      finish: database.prepare(
        "UPDATE messages SET state = @state, pieces = @pieces, tokens = @tokens, facts = @facts WHERE id = @id",
      ),
      arriving: database.prepare("UPDATE messages SET state = 'arriving' WHERE id = ? AND state = 'waiting'"),
      // walks up by primary key: as long as the part that is asked for, whatever the length of the line
      upwards: database.prepare<[string, number], MessageRow>(
        `WITH RECURSIVE line AS (
           SELECT * FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.* FROM messages JOIN line ON messages.id = line.parent_id
           LIMIT ?
         ) SELECT * FROM line ORDER BY depth`,
      ),
      underWay: database.prepare<[], MessageRow>("SELECT * FROM messages WHERE state IN ('waiting', 'arriving')"),
      underWayIn: database.prepare<[string], { id: string }>(
        "SELECT id FROM messages WHERE conversation_id = ? AND state IN ('waiting', 'arriving')",
      ),
      underWayOf: database.prepare<[string], { id: string }>(
        `SELECT id FROM messages WHERE state IN ('waiting', 'arriving')
           AND conversation_id IN (SELECT id FROM conversations WHERE app_id = ?)`,
      ),
      tokens: database.prepare<[string], { tokens: number }>(
        "SELECT coalesce(sum(tokens), 0) AS tokens FROM messages WHERE conversation_id = ?",
      ),
    };
  }

  create({
    app,
    visitor,
    opening,
    now,
  }: {
    app: string;
    visitor: string | null;
    opening: string;
    now: number;
  }): StoredConversation {
    const id = newId("con");
    const start = opening.replace(/\s+/g, " ").trim().slice(0, longestOpening);
    this.sql.insert.run({ id, app, visitor, opening: start, now });
    return { id, app, visitor, tip: null, opening: start, createdAt: now, updatedAt: now };
  }

  byId(id: string): StoredConversation | undefined {
    const row = this.sql.byId.get(id);
    return row && readConversation(row);
  }

  /** A page of an app's conversations, the last touched first. */
  ofApp(app: string, after: ListPlace, count: number): StoredConversation[] {
    return this.sql.ofApp.all(app, after.updatedAt, after.updatedAt, after.id, count).map(readConversation);
  }

  /** A page of a visitor's conversations with an app, the last touched first. */
  ofVisitor(visitor: string, app: string, after: ListPlace, count: number): StoredConversation[] {
    return this.sql.ofVisitor
      .all(visitor, app, after.updatedAt, after.updatedAt, after.id, count)
      .map(readConversation);
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

  /** The same for all that was taken out of sight before a moment. */
  leaveHidden(before: number): void {
    this.sql.leaveHidden.run(before);
  }

  /** A conversation that is to be deleted for good, and in which nothing arrives any more. */
  nextLeaving(): string | undefined {
    return this.sql.nextLeaving.get()?.id;
  }

  /** Deletes the deepest messages of a conversation; false when there are none. */
  deleteDeepest(id: string, count: number): boolean {
    this.sql.dropTip.run(id);
    return this.sql.deleteDeepest.run(id, count).changes > 0;
  }

  /** Deletes a conversation that holds no message. */
  delete(id: string): void {
    this.sql.delete.run(id);
  }

  message(id: string): Message | undefined {
    const row = this.sql.message.get(id);
    return row && readMessage(row);
  }

  /** The conversation that a message belongs to. */
  conversationOf(message: string): StoredConversation | undefined {
    const row = this.sql.message.get(message);
    return row && this.byId(row.conversation_id);
  }

  addVisitorMessage(to: {
    conversation: string;
    parent: Message | undefined;
    pieces: Piece[];
    tokens: number;
    now: number;
  }): VisitorMessage {
    const row = this.newRow(to, "visitor");
    this.sql.insertMessage.run({
      ...row,
      pieces: JSON.stringify(to.pieces),
      tokens: to.tokens,
      state: null,
      continues: null,
      facts: null,
    });
    this.sql.setTip.run(row.id, to.now, to.conversation);
    return {
      id: row.id,
      parent: row.parent,
      depth: row.depth,
      role: "visitor",
      pieces: to.pieces,
      tokens: to.tokens,
      at: to.now,
    };
  }

  /** Adds a reply of which nothing has come yet, and makes it the tip. */
  addReply(to: {
    conversation: string;
    parent: Message | undefined;
    continues: string | null;
    facts: ReplyFacts;
    now: number;
  }): AppMessage {
    const row = this.newRow(to, "app");
    this.sql.insertMessage.run({
      ...row,
      pieces: "[]",
      tokens: 0,
      state: "waiting",
      continues: to.continues,
      facts: JSON.stringify(to.facts),
    });
    this.sql.setTip.run(row.id, to.now, to.conversation);
    const { id, parent, depth } = row;
    return {
      id,
      parent,
      depth,
      role: "app",
      pieces: [],
      tokens: 0,
      state: "waiting",
      continues: to.continues,
      facts: to.facts,
      at: to.now,
    };
  }

  markArriving(reply: string): void {
    this.sql.arriving.run(reply);
  }

  /** Writes how a reply ended. After that its row never changes. */
  finishReply(reply: { id: string; state: ReplyState; text: string; tokens: number; facts: ReplyFacts }): void {
    const pieces: Piece[] = reply.text === "" ? [] : [{ kind: "text", text: reply.text }];
    this.sql.finish.run({ ...reply, pieces: JSON.stringify(pieces), facts: JSON.stringify(reply.facts) });
  }

  /** The line that ends with a message, from its root, or only the last `count` of it. */
  line(end: string, count = -1): Message[] {
    return this.sql.upwards.all(end, count).map(readMessage);
  }

  /** Replies that have not ended, wherever they are. */
  underWay(): (AppMessage & { conversation: string })[] {
    return this.sql.underWay
      .all()
      .map((row) => ({ ...(readMessage(row) as AppMessage), conversation: row.conversation_id }));
  }

  /** The ids of the replies of a conversation that have not ended. */
  underWayIn(conversation: string): string[] {
    return this.sql.underWayIn.all(conversation).map(({ id }) => id);
  }

  /** The same for all conversations of an app. */
  underWayOf(app: string): string[] {
    return this.sql.underWayOf.all(app).map(({ id }) => id);
  }

  /** Tokens of all messages of a conversation. */
  tokens(conversation: string): number {
    return this.sql.tokens.get(conversation)?.tokens ?? 0;
  }

  private newRow(
    { conversation, parent, now }: { conversation: string; parent: Message | undefined; now: number },
    role: Message["role"],
  ) {
    return {
      id: newId("msg"),
      conversation,
      parent: parent?.id ?? null,
      depth: parent ? parent.depth + 1 : 0,
      role,
      now,
    };
  }
}

function readConversation(row: ConversationRow): StoredConversation {
  return {
    id: row.id,
    app: row.app_id,
    visitor: row.visitor_id,
    tip: row.tip_id,
    opening: row.opening,
    createdAt: row.created_at,
    updatedAt: row.updated_at,
  };
}

function readMessage(row: MessageRow): Message {
  const base = {
    id: row.id,
    parent: row.parent_id,
    depth: row.depth,
    pieces: JSON.parse(row.pieces) as Piece[],
    tokens: row.tokens,
    at: row.created_at,
  };
  if (row.role === "visitor") return { ...base, role: "visitor" };
  if (row.state === null || row.facts === null) throw new Error(`Reply ${row.id} has no state.`);
  return {
    ...base,
    role: "app",
    state: row.state,
    continues: row.continues,
    facts: JSON.parse(row.facts) as ReplyFacts,
  };
}
