import type { LaneBase } from "@/core/comparing/lane";
import type { Problem } from "@/core/problem/problem";
import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** A comparison as it is stored. */
export interface StoredComparison {
  id: string;
  app: string;
  /** As the developer named it. */
  name: string | null;
  /** The message of a conversation that all lanes go on from, and that conversation; null where they begin, or once it is deleted. */
  startsAfter: string | null;
  startsIn: string | null;
  createdAt: number;
  updatedAt: number;
}

/** A comparison in a list. */
export interface ListedComparison extends StoredComparison {
  /** What was asked first; null where nothing was. */
  opening: string | null;
  turns: number;
  lanes: number;
}

/** A candidate of a comparison. */
export interface StoredLane {
  id: string;
  comparison: string;
  place: number;
  base: LaneBase;
  /** The number of the revision that its base was when it was chosen. */
  revision: number;
  contentHash: string;
  /** What was said in it; null before anything was, or once that is deleted. */
  conversation: string | null;
  /** Up to this turn nothing more is asked of it. */
  stoppedAtTurn: number;
  isLeft: boolean;
}

/** What was asked of all lanes. */
export interface StoredTurn {
  turn: number;
  message: string;
  /** Epoch milliseconds. */
  askedAt: number;
}

/** What a lane made of a turn: the message that was said in it, or why that could not be. */
export interface LaneTurn {
  turn: number;
  message: string | null;
  problem: Problem | null;
}

interface LaneRow {
  id: string;
  comparison: string;
  place: number;
  base: string;
  revision: number;
  contentHash: string;
  conversation: string | null;
  stoppedAtTurn: number;
  isLeft: number;
}

/** Comparisons that are listed. */
const mostListed = 200;

const columns = `id, app_id AS app, name, starts_after AS startsAfter, starts_in AS startsIn,
  created_at AS createdAt, updated_at AS updatedAt`;
const laneColumns = `id, comparison_id AS comparison, place, base, revision, content_hash AS contentHash,
  conversation_id AS conversation, stopped_at_turn AS stoppedAtTurn, left_at IS NOT NULL AS isLeft`;

/** Comparisons, their lanes, what was asked of them, and facts that were marked. */
export class ComparisonStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO comparisons (id, app_id, name, starts_after, starts_in, created_at, updated_at)
         VALUES (@id, @app, @name, @startsAfter, @startsIn, @now, @now)`,
      ),
      byId: database.prepare<[string], StoredComparison>(
        `SELECT ${columns} FROM comparisons WHERE id = ? AND deleted_at IS NULL
           AND app_id NOT IN (SELECT id FROM apps WHERE is_leaving = 1)`,
      ),
      stored: database.prepare<[string], StoredComparison>(`SELECT ${columns} FROM comparisons WHERE id = ?`),
      // served by comparisons_by_app
      ofApp: database.prepare<[string, number], ListedComparison>(
        `SELECT ${columns},
           (SELECT message FROM comparison_turns WHERE comparison_id = comparisons.id AND turn = 1) AS opening,
           (SELECT count(*) FROM comparison_turns WHERE comparison_id = comparisons.id) AS turns,
           (SELECT count(*) FROM lanes WHERE comparison_id = comparisons.id AND left_at IS NULL) AS lanes
         FROM comparisons WHERE app_id = ? AND deleted_at IS NULL ORDER BY updated_at DESC, id DESC LIMIT ?`,
      ),
      rename: database.prepare("UPDATE comparisons SET name = ? WHERE id = ?"),
      touch: database.prepare("UPDATE comparisons SET updated_at = ? WHERE id = ?"),
      hide: database.prepare("UPDATE comparisons SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL"),
      restore: database.prepare("UPDATE comparisons SET deleted_at = NULL WHERE id = ?"),
      hiddenBefore: database.prepare<[number], { id: string }>("SELECT id FROM comparisons WHERE deleted_at < ?"),
      delete: database.prepare("DELETE FROM comparisons WHERE id = ?"),
      // served by conversations_owned, lanes_by_conversation, comparisons_by_conversation and duet_sides_by_conversation
      leaveLost: database.prepare(
        `UPDATE conversations SET is_leaving = 1, deleted_at = coalesce(deleted_at, created_at)
         WHERE unlisted = 2 AND is_leaving = 0 AND created_at < ?
           AND NOT EXISTS (SELECT 1 FROM lanes WHERE conversation_id = conversations.id)
           AND NOT EXISTS (SELECT 1 FROM comparisons WHERE starts_in = conversations.id)
           AND NOT EXISTS (SELECT 1 FROM duet_sides WHERE conversation_id = conversations.id)`,
      ),
      addTurn: database.prepare(
        `INSERT INTO comparison_turns (comparison_id, turn, message, asked_at)
         SELECT @comparison, coalesce(max(turn), 0) + 1, @message, @now FROM comparison_turns WHERE comparison_id = @comparison
         RETURNING turn`,
      ),
      copyTurns: database.prepare(
        `INSERT INTO comparison_turns (comparison_id, turn, message, asked_at)
         SELECT @to, turn, message, asked_at FROM comparison_turns WHERE comparison_id = @from`,
      ),
      turns: database.prepare<[string], StoredTurn>(
        "SELECT turn, message, asked_at AS askedAt FROM comparison_turns WHERE comparison_id = ? ORDER BY turn",
      ),
      addLane: database.prepare(
        `INSERT INTO lanes (id, comparison_id, place, base, revision, content_hash, conversation_id)
         VALUES (@id, @comparison, @place, @base, @revision, @contentHash, @conversation)`,
      ),
      lane: database.prepare<[string], LaneRow>(`SELECT ${laneColumns} FROM lanes WHERE id = ?`),
      // served by lanes_by_comparison
      lanes: database.prepare<[string], LaneRow>(
        `SELECT ${laneColumns} FROM lanes WHERE comparison_id = ? ORDER BY place, id`,
      ),
      leave: database.prepare("UPDATE lanes SET left_at = ? WHERE id = ?"),
      setConversation: database.prepare("UPDATE lanes SET conversation_id = ? WHERE id = ?"),
      stop: database.prepare("UPDATE lanes SET stopped_at_turn = max(stopped_at_turn, ?) WHERE id = ?"),
      setTurn: database.prepare(
        `INSERT INTO lane_turns (lane_id, turn, message_id, problem) VALUES (?, ?, ?, ?)
         ON CONFLICT DO UPDATE SET message_id = excluded.message_id, problem = excluded.problem`,
      ),
      laneTurns: database.prepare<[string], { turn: number; message: string | null; problem: string | null }>(
        "SELECT turn, message_id AS message, problem FROM lane_turns WHERE lane_id = ? ORDER BY turn",
      ),
      // lanes that were not asked all there is to ask, or were cut off in it
      unfinished: database.prepare<[], { id: string }>(
        `SELECT lanes.id FROM lanes JOIN comparisons ON comparisons.id = lanes.comparison_id
         WHERE lanes.left_at IS NULL AND comparisons.deleted_at IS NULL AND EXISTS (
           SELECT 1 FROM comparison_turns AS t WHERE t.comparison_id = lanes.comparison_id AND t.turn > lanes.stopped_at_turn
             AND NOT EXISTS (
               SELECT 1 FROM lane_turns AS l WHERE l.lane_id = lanes.id AND l.turn = t.turn AND (
                 l.problem IS NOT NULL OR EXISTS (
                   SELECT 1 FROM messages WHERE parent_id = l.message_id AND state NOT IN ('waiting', 'arriving', 'interrupted')))))`,
      ),
      mark: database.prepare(
        `INSERT INTO fact_marks (app_id, question, fact, is_right, at) VALUES (@app, @question, @fact, @isRight, @now)
         ON CONFLICT DO UPDATE SET is_right = excluded.is_right, at = excluded.at`,
      ),
      unmark: database.prepare("DELETE FROM fact_marks WHERE app_id = ? AND question = ? AND fact = ?"),
      marks: database.prepare<[string, string], { fact: string; isRight: number }>(
        "SELECT fact, is_right AS isRight FROM fact_marks WHERE app_id = ? AND question = ?",
      ),
    };
  }

  add(made: {
    app: string;
    name: string | null;
    startsAfter: string | null;
    startsIn: string | null;
    now: number;
  }): StoredComparison {
    const id = newId("cmp");
    this.sql.insert.run({ id, ...made });
    return this.byId(id) as StoredComparison;
  }

  byId(id: string): StoredComparison | undefined {
    return this.sql.byId.get(id);
  }

  /** A comparison whether it is in sight or not. */
  stored(id: string): StoredComparison | undefined {
    return this.sql.stored.get(id);
  }

  /** The comparisons of an app, the last touched first. */
  ofApp(app: string): ListedComparison[] {
    return this.sql.ofApp.all(app, mostListed);
  }

  rename(id: string, name: string | null): void {
    this.sql.rename.run(name, id);
  }

  touch(id: string, now: number): void {
    this.sql.touch.run(now, id);
  }

  /** Takes a comparison out of sight; it can be restored until it is deleted for good. */
  hide(id: string, now: number): void {
    this.sql.hide.run(now, id);
  }

  /** Takes that back; false where it was for good. */
  restore(id: string): boolean {
    return this.sql.restore.run(id).changes > 0;
  }

  /** The comparisons that were taken out of sight before a moment. */
  hiddenBefore(moment: number): string[] {
    return this.sql.hiddenBefore.all(moment).map(({ id }) => id);
  }

  delete(id: string): void {
    this.sql.delete.run(id);
  }

  /** Has lines deleted that were copied before a moment, and that a stop of the process kept their lanes from getting. */
  leaveLost(before: number): void {
    this.sql.leaveLost.run(before);
  }

  /** Adds what is asked of all lanes; gives its turn. */
  addTurn(comparison: string, message: string, now: number): number {
    const { turn } = this.sql.addTurn.get({ comparison, message, now }) as { turn: number };
    this.touch(comparison, now);
    return turn;
  }

  copyTurns(from: string, to: string): void {
    this.sql.copyTurns.run({ from, to });
  }

  turns(comparison: string): StoredTurn[] {
    return this.sql.turns.all(comparison);
  }

  addLane(
    lane: Pick<StoredLane, "comparison" | "place" | "base" | "revision" | "contentHash"> & { conversation?: string },
  ): StoredLane {
    const id = newId("lan");
    this.sql.addLane.run({ conversation: null, ...lane, id, base: String(lane.base) });
    return this.lane(id) as StoredLane;
  }

  lane(id: string): StoredLane | undefined {
    const row = this.sql.lane.get(id);
    return row && readLane(row);
  }

  /** The lanes of a comparison in their order, those that were left out among them. */
  lanes(comparison: string): StoredLane[] {
    return this.sql.lanes.all(comparison).map(readLane);
  }

  /** Leaves a lane out; null takes it in again. @param at epoch milliseconds */
  leave(lane: string, at: number | null): void {
    this.sql.leave.run(at, lane);
  }

  setConversation(lane: string, conversation: string): void {
    this.sql.setConversation.run(conversation, lane);
  }

  /** Asks nothing more of a lane up to a turn. */
  stop(lane: string, turn: number): void {
    this.sql.stop.run(turn, lane);
  }

  /** Notes what a lane made of a turn. */
  setTurn(lane: string, { turn, message, problem }: LaneTurn): void {
    this.sql.setTurn.run(lane, turn, message, problem && JSON.stringify(problem));
  }

  laneTurns(lane: string): LaneTurn[] {
    return this.sql.laneTurns
      .all(lane)
      .map(({ turn, message, problem }) => ({ turn, message, problem: problem === null ? null : JSON.parse(problem) }));
  }

  /** The lanes of which something is still to be asked. */
  unfinished(): string[] {
    return this.sql.unfinished.all().map(({ id }) => id);
  }

  /** Marks a fact that was stated to a question as right or wrong; null takes the mark away. */
  mark(of: { app: string; question: string; fact: string }, isRight: boolean | null, now: number): void {
    const question = questionKey(of.question);
    if (isRight === null) this.sql.unmark.run(of.app, question, of.fact);
    else this.sql.mark.run({ ...of, question, isRight: Number(isRight), now });
  }

  /** The facts that were marked to a question. */
  marks(app: string, question: string): { fact: string; isRight: boolean }[] {
    return this.sql.marks
      .all(app, questionKey(question))
      .map(({ fact, isRight }) => ({ fact, isRight: isRight === 1 }));
  }
}

/** Characters of a question by which it is known. */
const longestKey = 500;

/** A question however its blanks and capitals stand. */
function questionKey(question: string): string {
  return question.toLowerCase().replace(/\s+/g, " ").trim().slice(0, longestKey);
}

function readLane(row: LaneRow): StoredLane {
  const { base, isLeft, ...lane } = row;
  return { ...lane, base: base === "live" || base === "draft" ? base : Number(base), isLeft: isLeft === 1 };
}

/** A parameter that has `comparisons`. */
export interface HasComparisons {
  comparisons: ComparisonStore;
}
