import type { MessageAbove } from "@/core/context/assemble";
import type { AppMessage, Message, ReplyFacts, VisitorMessage } from "@/core/conversation/message";
import { holdsSomething, type Piece } from "@/core/conversation/pieces";
import { noSum, type Sum, withTurn } from "@/core/conversation/sum";
import { unmarked } from "@/core/conversation/unmarked";
import type { ReplyState } from "@/core/reply/reply";
import { rawTokens } from "@/core/tokens/calibration";
import { type Counts, countsOfPieces, noCounts } from "@/core/tokens/counts";
import type { Database } from "../database/database";
import { newId } from "../ground/id";
import type { WhoseLine } from "./branch-store";
import { WordStore } from "./word-store";

interface MessageRow {
  id: string;
  conversation_id: string;
  parent_id: string | null;
  depth: number;
  turn: number;
  role: "visitor" | "app";
  pieces: string;
  counts: string;
  so_far: string;
  reported: number | null;
  state: ReplyState | null;
  continues: string | null;
  facts: string | null;
  created_at: number;
}

// without what is made of its facts for an index
const columns = `messages.id, messages.conversation_id, messages.parent_id, messages.depth, messages.turn, messages.role,
  messages.pieces, messages.counts, messages.so_far, messages.reported, messages.state, messages.continues,
  messages.facts, messages.created_at`;

/** Where a message stands. */
interface Place {
  conversation_id: string;
  depth: number;
}

/** All that stands above a message, where nothing forks: thousands of texts are read in half the time as one. */
interface StraightAbove {
  /** JSON documents, parted by commas. */
  pieces: string | null;
  /** The first letter of each role. */
  roles: string;
}

/** A message above another, in a tree that forks. */
type ForkedRow = [role: Message["role"], pieces: string, facts: string | null, id: string, parent: string | null];

/** Whether no branch of a message's conversation is about to leave; served by messages_below_stays. */
const isNothingLeft = `NOT EXISTS (
  SELECT 1 FROM messages AS top WHERE top.below_stays = 1 AND top.conversation_id = messages.conversation_id)`;
/** Whether one that left stands above a message. */
const isBelowLeaving = `EXISTS (
  WITH RECURSIVE up (parent, is_leaving) AS (
    SELECT messages.parent_id, 0
    UNION ALL
    SELECT above.parent_id, above.is_leaving FROM messages AS above JOIN up ON above.id = up.parent WHERE up.is_leaving = 0
  ) SELECT 1 FROM up WHERE is_leaving = 1)`;

/** The messages of conversations: a tree each, of which lines are read. */
export class MessageStore {
  private readonly sql;
  readonly words: WordStore;

  constructor(database: Database) {
    this.words = new WordStore(database);
    this.sql = {
      setTip: database.prepare(
        "UPDATE conversations SET tip_id = ?, bench_tip_id = NULL, turns = ?, updated_at = ? WHERE id = ?",
      ),
      setBenchTip: database.prepare("UPDATE conversations SET bench_tip_id = ? WHERE id = ?"),
      addTokens: database.prepare("UPDATE conversations SET tokens = tokens + ? WHERE id = ?"),
      show: database.prepare("UPDATE messages SET shown_child_id = ? WHERE id = ?"),
      message: database.prepare<[string], MessageRow>(
        `SELECT ${columns} FROM messages WHERE id = ? AND is_leaving = 0 AND (${isNothingLeft} OR NOT ${isBelowLeaving})`,
      ),
      // one of a branch that is being deleted, too: its end is written before it goes
      anyMessage: database.prepare<[string], MessageRow & { is_leaving: number }>(
        `SELECT ${columns}, is_leaving FROM messages WHERE id = ?`,
      ),
      insertMessage: database.prepare(
        `INSERT INTO messages (id, conversation_id, parent_id, depth, turn, role, pieces, counts, so_far, state, continues, facts, created_at)
         VALUES (@id, @conversation, @parent, coalesce((SELECT depth + 1 FROM messages WHERE id = @parent), 0), @turn, @role, @pieces, @counts, @soFar, @state, @continues, @facts, @now)`,
      ),
      copy: database.prepare(
        `INSERT INTO messages (id, conversation_id, parent_id, depth, turn, role, pieces, counts, so_far, reported, state, facts, created_at)
         SELECT @id, @conversation, @parent, depth, turn, role, pieces, counts, so_far, reported, state, facts, created_at
         FROM messages WHERE id = @of`,
      ),
      copyFiles: database.prepare(
        "INSERT OR IGNORE INTO file_uses (message_id, hash) SELECT ?, hash FROM file_uses WHERE message_id = ?",
      ),
      ids: database.prepare<[string], { id: string }>(
        `WITH RECURSIVE up (id, parent, depth) AS (
           SELECT id, parent_id, depth FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.id, messages.parent_id, messages.depth FROM messages JOIN up ON messages.id = up.parent
         ) SELECT up.id FROM up ORDER BY depth`,
      ),
      useFile: database.prepare("INSERT OR IGNORE INTO file_uses (message_id, hash) VALUES (?, ?)"),
      finish: database.prepare(
        `UPDATE messages SET state = @state, pieces = @pieces, counts = @counts, so_far = @soFar, reported = @reported, facts = @facts
         WHERE id = @id`,
      ),
      arriving: database.prepare("UPDATE messages SET state = 'arriving' WHERE id = ? AND state = 'waiting'"),
      // walks up by primary key: as long as the part that is asked for, whatever the length of the line
      upwards: database.prepare<[string, number], MessageRow>(
        `WITH RECURSIVE line AS (
           SELECT ${columns} FROM messages WHERE id = ?
           UNION ALL
           SELECT ${columns} FROM messages JOIN line ON messages.id = line.parent_id
           LIMIT ?
         ) SELECT * FROM line ORDER BY depth`,
      ),
      // walks up without a text as far as it has to
      stretch: database.prepare<[string, number, number], MessageRow>(
        `WITH RECURSIVE up (id, parent, turn) AS (
           SELECT id, parent_id, turn FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.id, messages.parent_id, messages.turn FROM messages JOIN up ON messages.id = up.parent
             WHERE messages.turn >= ?
         ) SELECT ${columns} FROM messages WHERE id IN (SELECT id FROM up WHERE turn <= ?) ORDER BY depth`,
      ),
      // served by messages_by_conversation
      straightStretch: database.prepare<[string, number, number], MessageRow>(
        `SELECT ${columns} FROM messages WHERE conversation_id = ? AND depth BETWEEN ? AND ? ORDER BY depth`,
      ),
      place: database.prepare<[string], Place>("SELECT conversation_id, depth FROM messages WHERE id = ?"),
      // these three are served by messages_by_conversation
      countAbove: database
        .prepare<[string, number]>("SELECT count(*) FROM messages WHERE conversation_id = ? AND depth < ?")
        .pluck(),
      straightAbove: database.prepare<[string, number], StraightAbove>(
        `SELECT group_concat(pieces, ',') AS pieces, group_concat(substr(role, 1, 1), '') AS roles
         FROM (SELECT role, pieces FROM messages WHERE conversation_id = ? AND depth < ? ORDER BY depth)`,
      ),
      carriedAbove: database.prepare<[string, number], { depth: number; facts: string }>(
        `SELECT depth, facts FROM messages
         WHERE conversation_id = ? AND depth < ? AND (instr(facts, '"carry":') OR instr(facts, '"cites":'))`,
      ),
      forkedAbove: database
        .prepare<[string, number]>(
          `SELECT role, pieces, CASE WHEN instr(facts, '"carry":') OR instr(facts, '"cites":') THEN facts END, id, parent_id FROM messages
           WHERE conversation_id = ? AND depth < ? ORDER BY depth`,
        )
        .raw(),
      // served by messages_by_parent
      takes: database.prepare<[string], MessageRow>(
        `SELECT ${columns} FROM messages WHERE parent_id = ? AND role = 'app' AND is_leaving = 0 ORDER BY id`,
      ),
      underWay: database.prepare<[], MessageRow>(
        `SELECT ${columns} FROM messages WHERE state IN ('waiting', 'arriving')`,
      ),
      // these two are served by messages_by_continued
      continuationUnderWay: database
        .prepare<[string]>("SELECT id FROM messages WHERE continues = ? AND state IN ('waiting', 'arriving')")
        .pluck(),
      continuations: database.prepare<[string]>("SELECT count(*) FROM messages WHERE continues = ?").pluck(),
      underWayIn: database.prepare<[string], { id: string }>(
        "SELECT id FROM messages WHERE conversation_id = ? AND state IN ('waiting', 'arriving')",
      ),
      underWayOf: database.prepare<[string], { id: string }>(
        `SELECT messages.id FROM messages JOIN conversations ON conversations.id = messages.conversation_id
         WHERE state IN ('waiting', 'arriving') AND app_id = ?`,
      ),
    };
  }

  message(id: string): Message | undefined {
    const row = this.sql.message.get(id);
    return row && readMessage(row);
  }

  addVisitorMessage(to: {
    conversation: string;
    parent: Message | undefined;
    pieces: Piece[];
    now: number;
    whose?: WhoseLine;
  }): VisitorMessage {
    const { conversation, parent, pieces, now, whose } = to;
    const counts = countsOfPieces(pieces);
    const message: VisitorMessage = {
      id: newId("msg"),
      parent: parent?.id ?? null,
      turn: (parent?.turn ?? 0) + 1,
      role: "visitor",
      pieces,
      counts,
      soFar: parent?.soFar ?? noSum,
      at: now,
    };
    this.insert(message, conversation, { state: null, continues: null, facts: null }, whose);
    this.words.add(conversation, message.id, pieces);
    this.sql.addTokens.run(rawTokens(counts), conversation);
    return message;
  }

  /** Adds a reply of which nothing has come yet. @param whose the line that it is shown in; none where it is not the first of its takes */
  addReply(to: {
    conversation: string;
    parent: Message;
    continues: string | null;
    facts: ReplyFacts;
    now: number;
    whose?: WhoseLine | "nobody";
  }): AppMessage {
    const { conversation, parent, continues, facts, now, whose } = to;
    const message: AppMessage = {
      id: newId("msg"),
      parent: parent.id,
      turn: parent.turn,
      role: "app",
      pieces: [],
      counts: noCounts,
      // a turn that may still be answered counts as one
      soFar: withTurn(parent.soFar, [parent.counts, noCounts]),
      state: "waiting",
      reported: null,
      continues,
      facts,
      at: now,
    };
    this.insert(message, conversation, { state: "waiting", continues, facts: JSON.stringify(facts) }, whose);
    return message;
  }

  markArriving(reply: string): void {
    this.sql.arriving.run(reply);
  }

  /**
   * Writes how a reply ended. After that its row never changes.
   * @param reply `reported` is its tokens as the provider counted them
   */
  finishReply(reply: {
    id: string;
    state: ReplyState;
    pieces: Piece[];
    reported: number | null;
    facts: ReplyFacts;
  }): void {
    const { id, state, pieces, reported, facts } = reply;
    const row = this.sql.anyMessage.get(id);
    const above = row?.parent_id && this.sql.anyMessage.get(row.parent_id);
    if (!row || !above) return;
    const parent = readMessage(above);
    const counts = countsOfPieces(unmarked(pieces, facts.cites));
    const soFar = holdsSomething(reply) ? withTurn(parent.soFar, [parent.counts, counts]) : parent.soFar;
    const documents = { pieces, counts, soFar, facts };
    this.sql.finish.run({ id, state, reported, ...written(documents) });
    this.sql.addTokens.run(reported ?? rawTokens(counts), row.conversation_id);
    for (const piece of pieces) if (piece.kind === "picture") this.sql.useFile.run(id, piece.file);
    if (row.is_leaving === 0) this.words.add(row.conversation_id, id, pieces);
    if (row.continues !== null) this.hideBehind(row.continues, row.conversation_id);
  }

  /** Counts and finds a reply no more, since one that went on from it holds all of it. */
  private hideBehind(reply: string, conversation: string): void {
    const hidden = this.sql.message.get(reply);
    if (!hidden || (this.sql.continuations.get(reply) as number) > 1) return;
    this.words.remove(reply);
    this.sql.addTokens.run(-(hidden.reported ?? rawTokens(JSON.parse(hidden.counts) as Counts)), conversation);
  }

  /** The line that ends with a message, from its root, or only the last `count` of it. */
  line(end: string, count = -1): Message[] {
    return this.sql.upwards.all(end, count).map(readMessage);
  }

  /** The last turns of the line that ends with a message: it begins with what a visitor said. */
  lastTurns(end: string, turns: number): Message[] {
    const line = this.line(end, turns * 2);
    return line[0]?.role === "app" ? line.slice(1) : line;
  }

  /** The messages of the turns from one to another, in the line that ends with a message. */
  stretch(end: string, from: number, to: number): Message[] {
    const { conversation_id: conversation, depth } = this.sql.place.get(end) as Place;
    const isStraight = this.sql.countAbove.get(conversation, depth) === depth;
    // a turn is a visitor's message and a reply
    const [first, last] = [(from - 1) * 2, Math.min(to * 2 - 1, depth)];
    const rows = isStraight
      ? this.sql.straightStretch.all(conversation, first, last).filter((row) => row.depth < depth || row.id === end)
      : this.sql.stretch.all(end, from, to);
    return rows.map(readMessage);
  }

  /**
   * What stands above a message in its line, from the root, without what is not sent of it. All that was ever
   * said so early is scanned, which for thousands of messages takes a tenth of walking up by their ids.
   */
  above(message: Message): MessageAbove[] {
    const { conversation_id: conversation, depth } = this.sql.place.get(message.id) as Place;
    if (this.sql.countAbove.get(conversation, depth) === depth) return this.straightAbove(conversation, depth);
    const line: MessageAbove[] = [];
    let wanted = message.parent;
    for (const row of (this.sql.forkedAbove.all(conversation, depth) as ForkedRow[]).reverse()) {
      const [role, pieces, facts, id, parent] = row;
      if (id !== wanted) continue;
      line.push({ role, pieces: JSON.parse(pieces), ...(facts === null ? {} : alongIn(facts)) });
      wanted = parent;
    }
    return line.reverse();
  }

  private straightAbove(conversation: string, depth: number): MessageAbove[] {
    const { pieces, roles } = this.sql.straightAbove.get(conversation, depth) as StraightAbove;
    const carried = new Map(this.sql.carriedAbove.all(conversation, depth).map((row) => [row.depth, row.facts]));
    return (JSON.parse(`[${pieces ?? ""}]`) as Piece[][]).map((each, at) => {
      const facts = carried.get(at);
      return {
        role: roles[at] === "v" ? "visitor" : "app",
        pieces: each,
        ...(facts === undefined ? {} : alongIn(facts)),
      };
    });
  }

  /** The ids of the line that ends with a message, from its root. */
  lineIds(end: string): string[] {
    return this.sql.ids.all(end).map(({ id }) => id);
  }

  /**
   * Copies some messages, each of which comes after the one before it, into another conversation, where they are shown.
   * @param after the message that they come after there; none at its beginning
   * @returns the ids of the copies; fewer where one of them is gone
   */
  copyAfter(after: string | undefined, of: readonly string[], conversation: string, now: number): string[] {
    const copies: string[] = [];
    let parent = after ?? null;
    for (const each of of) {
      const id = newId("msg");
      if (this.sql.copy.run({ id, conversation, parent, of: each }).changes === 0) break;
      this.sql.copyFiles.run(id, each);
      if (parent !== null) this.sql.show.run(id, parent);
      const copy = this.message(id) as Message;
      this.words.add(conversation, id, copy.pieces);
      const reported = copy.role === "app" ? copy.reported : null;
      this.sql.addTokens.run(reported ?? rawTokens(copy.counts), conversation);
      this.sql.setTip.run(id, copy.turn, now, conversation);
      copies.push(id);
      parent = id;
    }
    return copies;
  }

  /** The takes of the reply to a message, the first one first. */
  takesOf(message: string): AppMessage[] {
    return this.sql.takes.all(message).map((row) => readMessage(row) as AppMessage);
  }

  /** A reply that goes on from another, and has not ended. */
  continuationUnderWay(reply: string): string | undefined {
    return this.sql.continuationUnderWay.get(reply) as string | undefined;
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

  /** The ids of the replies of an app that have not ended, in all its conversations. */
  underWayOf(app: string): string[] {
    return this.sql.underWayOf.all(app).map(({ id }) => id);
  }

  /** Writes a new message, which is shown from here on. */
  private insert(
    message: Message,
    conversation: string,
    more: { state: ReplyState | null; continues: string | null; facts: string | null },
    whose: WhoseLine | "nobody" = "shown",
  ): void {
    const { id, parent, turn, role, pieces, counts, soFar, at } = message;
    const documents = written({ pieces, counts, soFar });
    this.sql.insertMessage.run({ id, conversation, parent, turn, role, ...documents, ...more, now: at });
    for (const piece of pieces) if (piece.kind === "picture") this.sql.useFile.run(id, piece.file);
    if (whose === "bench") this.sql.setBenchTip.run(id, conversation);
    if (whose !== "shown") return;
    if (parent !== null) this.sql.show.run(id, parent);
    this.sql.setTip.run(id, turn, at, conversation);
  }
}

/** Documents as they are stored: each as JSON. */
function written<T extends object>(documents: T): { [K in keyof T]: string } {
  const entries = Object.entries(documents).map(([name, value]) => [name, JSON.stringify(value)]);
  return Object.fromEntries(entries) as { [K in keyof T]: string };
}

/** What an API gave along with a reply, and what that cites, by its facts. */
function alongIn(facts: string): Pick<MessageAbove, "carry" | "cites"> {
  const { provider, carry, cites } = JSON.parse(facts) as ReplyFacts;
  return { carry: carry && { provider, rounds: carry }, cites };
}

function readMessage(row: MessageRow): Message {
  const base = {
    id: row.id,
    parent: row.parent_id,
    turn: row.turn,
    pieces: JSON.parse(row.pieces) as Piece[],
    counts: JSON.parse(row.counts) as Counts,
    soFar: JSON.parse(row.so_far) as Sum,
    at: row.created_at,
  };
  if (row.role === "visitor") return { ...base, role: "visitor" };
  if (row.state === null || row.facts === null) throw new Error(`Reply ${row.id} has no state.`);
  return {
    ...base,
    role: "app",
    state: row.state,
    reported: row.reported,
    continues: row.continues,
    facts: JSON.parse(row.facts) as ReplyFacts,
  };
}

/** A parameter that has `messages`. */
export interface HasMessages {
  messages: MessageStore;
}
