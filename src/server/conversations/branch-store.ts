import type { Clear } from "@/core/context/clear";
import type { Sum } from "@/core/conversation/sum";
import type { Candidate } from "@/core/reply/events";
import { rawTokens } from "@/core/tokens/calibration";
import type { Counts } from "@/core/tokens/counts";
import type { Database } from "../database/database";

/** A message beside another: a take of the same reply, or another message in the same place. */
export interface StoredSibling {
  id: string;
  /** The message before it; null where it begins the conversation. */
  parent: string | null;
  role: "visitor" | "app";
  /** The name of the branch that it begins. */
  name: string | null;
}

/** Whose line is meant: the one that a visitor goes on from, or the bench's own of a visitor's conversation. */
export type WhoseLine = "shown" | "bench";

interface LeavingRow {
  id: string;
  conversation: string;
  words: number | null;
  counts: string;
  reported: number | null;
  isHidden: number;
}

interface ClearRow {
  message: string;
  by: string;
  depth: number;
  turn: number;
  so_far: string;
}

// what goes on from a reply stands for it
const isVisible = `is_leaving = 0 AND NOT EXISTS (
  SELECT 1 FROM messages AS whole WHERE whole.continues = messages.id AND whole.is_leaving = 0)`;
const siblingColumns = "id, parent_id AS parent, role, name";
const leavingColumns = `id, conversation_id AS conversation, words_id AS words, counts, reported,
  EXISTS (SELECT 1 FROM messages AS whole WHERE whole.continues = messages.id) AS isHidden`;

/** The places where the lines of a conversation part, and where one is cleared. */
export class BranchStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      // served by messages_by_parent
      siblings: database.prepare<[string], StoredSibling>(
        `SELECT ${siblingColumns} FROM messages WHERE parent_id IN (SELECT value FROM json_each(?)) AND ${isVisible} ORDER BY id`,
      ),
      // served by messages_by_conversation
      roots: database.prepare<[string], StoredSibling>(
        `SELECT ${siblingColumns} FROM messages WHERE conversation_id = ? AND depth = 0 AND is_leaving = 0 ORDER BY id`,
      ),
      // walks down by primary key, and by messages_by_parent where a shown child is gone
      down: database.prepare<[string, number], { id: string; steps: number }>(
        `WITH RECURSIVE down (id, steps) AS (
           SELECT ?, 0
           UNION ALL
           SELECT coalesce(
             (SELECT child.id FROM messages AS child WHERE child.id = messages.shown_child_id AND child.is_leaving = 0),
             (SELECT max(child.id) FROM messages AS child WHERE child.parent_id = messages.id AND child.is_leaving = 0)
           ), steps + 1
           FROM down JOIN messages ON messages.id = down.id
           LIMIT ?
         ) SELECT id, steps FROM down WHERE id IS NOT NULL ORDER BY steps DESC LIMIT 1`,
      ),
      remember: database.prepare(
        `WITH RECURSIVE up (id, parent) AS (
           SELECT id, parent_id FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.id, messages.parent_id FROM messages JOIN up ON messages.id = up.parent
         )
         UPDATE messages SET shown_child_id = up.id FROM up
           WHERE messages.id = up.parent AND messages.shown_child_id IS NOT up.id`,
      ),
      rememberChild: database.prepare("UPDATE messages SET shown_child_id = ? WHERE id = ?"),
      setTip: database.prepare(
        "UPDATE conversations SET tip_id = @tip, turns = (SELECT turn FROM messages WHERE id = @tip) WHERE id = @id",
      ),
      setBenchTip: database.prepare("UPDATE conversations SET bench_tip_id = ? WHERE id = ?"),
      name: database.prepare("UPDATE messages SET name = ? WHERE id = ?"),
      ancestor: database.prepare<[string, number, number], { id: string }>(
        `WITH RECURSIVE up (id, parent, depth) AS (
           SELECT id, parent_id, depth FROM messages WHERE id = ?
           UNION ALL
           SELECT messages.id, messages.parent_id, messages.depth FROM messages JOIN up ON messages.id = up.parent
             WHERE up.depth > ?
         ) SELECT id FROM up WHERE depth = ?`,
      ),
      // served by messages_by_conversation
      atDepth: database.prepare<[string, number], { id: string }>(
        "SELECT id FROM messages WHERE conversation_id = ? AND depth = ? LIMIT 2",
      ),
      depth: database.prepare<[string]>("SELECT depth FROM messages WHERE id = ?").pluck(),
      leaving: database.prepare<[string], LeavingRow>(
        `SELECT ${leavingColumns} FROM messages WHERE id = ? AND is_leaving = 0`,
      ),
      // served by messages_by_parent
      leavingBelow: database.prepare<[string, number], LeavingRow>(
        `SELECT ${leavingColumns} FROM messages WHERE parent_id = ? AND is_leaving = 0 LIMIT ?`,
      ),
      // served by messages_below_stays
      tops: database.prepare<[number], { id: string }>("SELECT id FROM messages WHERE below_stays = 1 LIMIT ?"),
      leave: database.prepare<[string]>(
        "UPDATE messages SET is_leaving = 1, below_stays = 1, words_id = NULL WHERE id IN (SELECT value FROM json_each(?))",
      ),
      allBelowLeft: database.prepare<[string]>(
        "UPDATE messages SET below_stays = 0 WHERE id IN (SELECT value FROM json_each(?))",
      ),
      // one statement for many: the index of words is written once for each
      dropWords: database.prepare<[string]>("DELETE FROM words WHERE rowid IN (SELECT value FROM json_each(?))"),
      continued: database.prepare<[string], { id: string }>(
        `SELECT continues AS id FROM messages WHERE id = ? AND continues IS NOT NULL AND NOT EXISTS (
           SELECT 1 FROM messages AS other
             WHERE other.continues = messages.continues AND other.is_leaving = 0 AND other.id <> messages.id)`,
      ),
      addTokens: database.prepare("UPDATE conversations SET tokens = tokens + ? WHERE id = ?"),
      // these two are served by messages_leaving
      nextLeaving: database
        .prepare<[]>(
          `SELECT conversation_id FROM messages AS gone WHERE is_leaving = 1 AND NOT EXISTS (
             SELECT 1 FROM messages WHERE conversation_id = gone.conversation_id AND state IN ('waiting', 'arriving')
           ) LIMIT 1`,
        )
        .pluck(),
      deleteLeaving: database.prepare(
        `DELETE FROM messages WHERE id IN (
           SELECT id FROM messages WHERE conversation_id = ? AND is_leaving = 1 ORDER BY depth DESC LIMIT ?)`,
      ),
      clear: database.prepare(
        "INSERT OR IGNORE INTO clears (message_id, answered_by, conversation_id, at) VALUES (?, ?, ?, ?)",
      ),
      unclear: database.prepare("DELETE FROM clears WHERE message_id = ? AND answered_by = ?"),
      // served by clears_by_conversation
      clears: database.prepare<[string], ClearRow>(
        `SELECT message_id AS message, answered_by AS "by", depth, turn, so_far FROM clears JOIN messages ON messages.id = message_id
         WHERE clears.conversation_id = ? AND is_leaving = 0 ORDER BY depth DESC, answered_by DESC`,
      ),
    };
  }

  /** What stands beside messages, themselves included, in the order in which it was made: by the message before it. */
  siblingsAfter(parents: readonly string[]): StoredSibling[] {
    return this.sql.siblings.all(JSON.stringify(parents));
  }

  /** The messages that a conversation may begin with. */
  roots(conversation: string): StoredSibling[] {
    return this.sql.roots.all(conversation);
  }

  /** What can be chosen in the place of a message, itself included. */
  siblingsOf(conversation: string, message: { parent: string | null; role: "visitor" | "app" }): StoredSibling[] {
    const all = message.parent === null ? this.roots(conversation) : this.siblingsAfter([message.parent]);
    return all.filter(({ role }) => role === message.role);
  }

  /** The end of the line that is shown below a message. */
  endOf(message: string): { id: string } {
    return this.sql.down.get(message, -1) ?? { id: message };
  }

  /** How many messages are in that line below the message, counted up to so many. */
  countBelow(message: string, most: number): number {
    return this.sql.down.get(message, most + 1)?.steps ?? 0;
  }

  /** Has the line through a message shown, as far as it goes. @returns its end */
  show(conversation: string, message: string, whose: WhoseLine): string {
    const { id } = this.endOf(message);
    if (whose === "bench") this.sql.setBenchTip.run(id, conversation);
    else {
      this.sql.remember.run(message);
      this.sql.setTip.run({ tip: id, id: conversation });
    }
    return id;
  }

  /** Has a message remember that the line goes on with one that follows it. */
  rememberChild(message: string, child: string): void {
    this.sql.rememberChild.run(child, message);
  }

  /** Sets the end of the line that is shown. */
  setTip(conversation: string, tip: string): void {
    this.sql.setTip.run({ tip, id: conversation });
  }

  /** Names the branch that begins with a message. @param name null for none */
  name(message: string, name: string | null): void {
    this.sql.name.run(name, message);
  }

  /** Whether the line which ends with a message goes through another, or ends with it. */
  goesThrough(conversation: string, end: string, message: string): boolean {
    return this.ancestorAt(conversation, end, this.depthOf(message)) === message;
  }

  /**
   * Takes a message out of sight for good, and with it the replies that it goes on from, which it hid and which must not
   * come back. What stands below them can be read and gone on from no more; `leaveSome` takes it out of sight.
   */
  leave(message: string): void {
    const rows: LeavingRow[] = [];
    for (let next: string | undefined = message; next !== undefined; next = this.sql.continued.get(next)?.id)
      rows.push(...this.sql.leaving.all(next));
    this.takeOut(rows);
  }

  /** Takes some of what stands below messages that left out of sight, from above down; false when there is none. */
  leaveSome(count: number): boolean {
    const tops = this.sql.tops.all(count).map(({ id }) => id);
    if (tops.length === 0) return false;
    const [rows, done]: [LeavingRow[], string[]] = [[], []];
    for (let top = tops.pop(); top !== undefined && rows.length < count; top = tops.pop()) {
      const some = this.sql.leavingBelow.all(top, count);
      rows.push(...some);
      tops.push(...some.map(({ id }) => id));
      if (some.length < count) done.push(top);
    }
    this.takeOut(rows);
    this.sql.allBelowLeft.run(JSON.stringify(done));
    return true;
  }

  /** Has messages out of sight, their words and their tokens with them, while what stands below them is still to leave. */
  private takeOut(rows: readonly LeavingRow[]): void {
    const { leave, dropWords, addTokens } = this.sql;
    leave.run(JSON.stringify(rows.map(({ id }) => id)));
    dropWords.run(JSON.stringify(rows.flatMap(({ words }) => words ?? [])));
    for (const [conversation, tokens] of tokensOf(rows)) addTokens.run(-tokens, conversation);
  }

  /** Deletes some of what left, the deepest first; false when there is none. */
  deleteSome(count: number): boolean {
    const conversation = this.sql.nextLeaving.get() as string | undefined;
    return conversation !== undefined && this.sql.deleteLeaving.run(conversation, count).changes > 0;
  }

  /** Draws a line after a reply: nothing above it is carried. @param by to this model alone; null for all */
  clear(conversation: string, message: string, by: Candidate | null, now: number): void {
    this.sql.clear.run(message, writtenOf(by), conversation, now);
  }

  /** Takes such a line away. */
  unclear(message: string, by: Candidate | null): void {
    this.sql.unclear.run(message, writtenOf(by));
  }

  /** The lines that are drawn in a conversation: after which messages, and for whom. */
  clearsIn(conversation: string): Pick<Clear, "message" | "by">[] {
    return this.sql.clears.all(conversation).map(({ message, by }) => ({ message, by: readBy(by) }));
  }

  /** The message at a depth of the line which ends with a message; undefined where the line is shorter. */
  ancestorAt(conversation: string, end: string, depth: number): string | undefined {
    const there = this.sql.atDepth.all(conversation, depth);
    const [only] = there;
    // where lines do not part at that depth, the line goes through the only message there, if it is that long
    if (only && there.length === 1 && this.depthOf(end) >= depth) return only.id;
    return this.sql.ancestor.get(end, depth, depth)?.id;
  }

  private depthOf(message: string): number {
    return (this.sql.depth.get(message) as number | undefined) ?? -1;
  }

  /**
   * The clears in the line which ends with a message, the last first: those that still matter, up to the last one that is
   * drawn for all.
   */
  clearsAbove(conversation: string, end: string): Clear[] {
    const clears: Clear[] = [];
    for (const { message, by: written, depth, turn, so_far } of this.sql.clears.all(conversation)) {
      const by = readBy(written);
      if (clears.some((each) => writtenOf(each.by) === written)) continue;
      if (this.ancestorAt(conversation, end, depth) !== message) continue;
      clears.push({ message, turn, soFar: JSON.parse(so_far) as Sum, by });
      if (by === null) break;
    }
    return clears;
  }
}

/** The tokens that messages count for, by conversation. */
function tokensOf(rows: readonly LeavingRow[]): Map<string, number> {
  const tokens = new Map<string, number>();
  for (const { conversation, isHidden, counts, reported } of rows) {
    if (isHidden !== 0) continue;
    const own = reported ?? rawTokens(JSON.parse(counts) as Counts);
    tokens.set(conversation, (tokens.get(conversation) ?? 0) + own);
  }
  return tokens;
}

/** Whose memory is cleared as it is written in its column: nothing for that of all. */
function writtenOf(by: Candidate | null): string {
  return by === null ? "" : JSON.stringify({ provider: by.provider, model: by.model });
}

function readBy(written: string): Candidate | null {
  return written === "" ? null : (JSON.parse(written) as Candidate);
}

/** A parameter that has `branches`. */
export interface HasBranches {
  branches: BranchStore;
}
