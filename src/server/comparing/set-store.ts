import type { LaneBase } from "@/core/comparing/lane";
import type { SetAnswer, SetMark, SetReply } from "@/core/comparing/sets/answer";
import type { Row } from "@/core/comparing/sets/rows";
import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** A set of messages as it is stored. */
export interface StoredSet {
  id: string;
  app: string;
  /** As the developer named it. */
  name: string | null;
  /** The job that asks it; null once that is forgotten. */
  job: string | null;
  /** Whether the names of the lanes are hidden until all is marked. */
  hidesNames: boolean;
  /** Answers that were not marked yet when the names were shown. */
  seenEarly: number;
  createdAt: number;
  updatedAt: number;
}

/** A set in a list. */
export interface ListedSet extends StoredSet {
  /** What is said first in it. */
  opening: string;
  rows: number;
  lanes: number;
}

/** A candidate of a set. */
export interface SetLane {
  place: number;
  base: LaneBase;
  /** The number of the revision that its base was when it was chosen. */
  revision: number;
  contentHash: string;
}

interface SetRow extends Omit<StoredSet, "hidesNames"> {
  hidesNames: number;
}

interface AnswerRow extends Omit<SetAnswer, "replies"> {
  replies: string;
}

/** Sets that are listed. */
const mostListed = 200;

const columns = `id, app_id AS app, name, job_id AS job, hides_names AS hidesNames, seen_early AS seenEarly,
  created_at AS createdAt, updated_at AS updatedAt`;

/** Sets of messages, the lanes that are asked them, and what those answered. */
export class SetStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO sets (id, app_id, name, created_at, updated_at) VALUES (@id, @app, @name, @now, @now)`,
      ),
      addLane: database.prepare(
        `INSERT INTO set_lanes (set_id, place, base, revision, content_hash)
         VALUES (@set, @place, @base, @revision, @contentHash)`,
      ),
      addRow: database.prepare("INSERT INTO set_rows (set_id, place, said) VALUES (?, ?, ?)"),
      byId: database.prepare<[string], SetRow>(
        `SELECT ${columns} FROM sets WHERE id = ? AND deleted_at IS NULL
           AND app_id NOT IN (SELECT id FROM apps WHERE is_leaving = 1)`,
      ),
      // served by sets_by_app
      ofApp: database.prepare<[string, number], SetRow & Pick<ListedSet, "opening" | "rows" | "lanes">>(
        `SELECT ${columns},
           (SELECT said ->> '$[0]' FROM set_rows WHERE set_id = sets.id AND place = 0) AS opening,
           (SELECT count(*) FROM set_rows WHERE set_id = sets.id) AS rows,
           (SELECT count(*) FROM set_lanes WHERE set_id = sets.id) AS lanes
         FROM sets WHERE app_id = ? AND deleted_at IS NULL ORDER BY updated_at DESC, id DESC LIMIT ?`,
      ),
      lanes: database.prepare<[string], Omit<SetLane, "base"> & { base: string }>(
        "SELECT place, base, revision, content_hash AS contentHash FROM set_lanes WHERE set_id = ? ORDER BY place",
      ),
      rows: database.prepare<[string], string>("SELECT said FROM set_rows WHERE set_id = ? ORDER BY place").pluck(),
      setJob: database.prepare("UPDATE sets SET job_id = ?, updated_at = ? WHERE id = ?"),
      rename: database.prepare("UPDATE sets SET name = ? WHERE id = ?"),
      hide: database.prepare("UPDATE sets SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL"),
      restore: database.prepare("UPDATE sets SET deleted_at = NULL WHERE id = ?"),
      deleteHidden: database.prepare("DELETE FROM sets WHERE deleted_at < ?"),
      addAnswer: database.prepare(
        `INSERT OR REPLACE INTO set_answers (id, set_id, row_place, lane_place, has_failed, replies)
         VALUES (@id, @set, @row, @lane, @hasFailed, @replies)`,
      ),
      // served by set_answers_by_set
      answers: database.prepare<[string, number], AnswerRow>(
        `SELECT seq, row_place AS row, lane_place AS lane, replies, mark FROM set_answers WHERE set_id = ? AND seq > ? ORDER BY seq`,
      ),
      answer: database
        .prepare<[string, number, number], string>(
          "SELECT replies FROM set_answers WHERE set_id = ? AND row_place = ? AND lane_place = ? AND has_failed = 0",
        )
        .pluck(),
      marks: database.prepare<[string], { row: number; lane: number; mark: SetMark }>(
        `SELECT row_place AS row, lane_place AS lane, mark FROM set_answers WHERE set_id = ? AND mark IS NOT NULL ORDER BY seq`,
      ),
      failed: database.prepare<[string], { row: number; lane: number }>(
        `SELECT row_place AS row, lane_place AS lane FROM set_answers WHERE set_id = ? AND has_failed = 1
         ORDER BY row_place, lane_place`,
      ),
      dropFailed: database.prepare("DELETE FROM set_answers WHERE set_id = ? AND has_failed = 1"),
      mark: database.prepare("UPDATE set_answers SET mark = ? WHERE set_id = ? AND row_place = ? AND lane_place = ?"),
      unmarked: database
        .prepare<[string], number>(
          "SELECT count(*) FROM set_answers WHERE set_id = ? AND mark IS NULL AND has_failed = 0",
        )
        .pluck(),
      setHidden: database.prepare("UPDATE sets SET hides_names = ?, seen_early = ? WHERE id = ?"),
    };
  }

  add(
    of: { app: string; name: string | null; now: number },
    lanes: readonly Omit<SetLane, "place">[],
    rows: readonly Row[],
  ): StoredSet {
    const id = newId("set");
    this.sql.insert.run({ id, ...of });
    for (const [place, lane] of lanes.entries())
      this.sql.addLane.run({ ...lane, set: id, place, base: String(lane.base) });
    for (const [place, row] of rows.entries()) this.sql.addRow.run(id, place, JSON.stringify(row));
    return this.byId(id) as StoredSet;
  }

  byId(id: string): StoredSet | undefined {
    const row = this.sql.byId.get(id);
    return row && setOf(row);
  }

  /** The sets of an app, the last touched first. */
  ofApp(app: string): ListedSet[] {
    return this.sql.ofApp.all(app, mostListed).map((row) => ({ ...row, ...setOf(row) }));
  }

  lanes(set: string): SetLane[] {
    return this.sql.lanes.all(set).map(({ base, ...lane }) => ({
      ...lane,
      base: base === "live" || base === "draft" ? base : Number(base),
    }));
  }

  rows(set: string): Row[] {
    return this.sql.rows.all(set).map((said) => JSON.parse(said) as Row);
  }

  setJob(id: string, job: string, now: number): void {
    this.sql.setJob.run(job, now, id);
  }

  rename(id: string, name: string | null): void {
    this.sql.rename.run(name, id);
  }

  /** Takes a set out of sight; it can be restored until it is deleted for good. */
  hide(id: string, now: number): void {
    this.sql.hide.run(now, id);
  }

  /** Takes that back; false where it was for good. */
  restore(id: string): boolean {
    return this.sql.restore.run(id).changes > 0;
  }

  /** Deletes for good what was taken out of sight before a moment. */
  deleteHidden(before: number): void {
    this.sql.deleteHidden.run(before);
  }

  /** Keeps what a lane answered to a row, in the place of what it answered before. @param id the owner of its makings */
  addAnswer(set: string, at: { id: string; row: number; lane: number }, replies: readonly SetReply[]): void {
    const hasFailed = replies.at(-1)?.figures.problem ? 1 : 0;
    this.sql.addAnswer.run({ ...at, set, hasFailed, replies: JSON.stringify(replies) });
  }

  /** The answers of a set that came after one, in the order in which they came. @param after its `seq`; 0 for all */
  answers(set: string, after = 0): SetAnswer[] {
    return this.sql.answers.all(set, after).map((row) => ({ ...row, replies: JSON.parse(row.replies) as SetReply[] }));
  }

  /** What a lane answered to a row; undefined where it did not, or failed. */
  answered(set: string, { row, lane }: { row: number; lane: number }): SetReply[] | undefined {
    const replies = this.sql.answer.get(set, row, lane);
    return replies === undefined ? undefined : (JSON.parse(replies) as SetReply[]);
  }

  /** Lets go of the answers that have failed, and gives where they stood. */
  takeFailed(set: string): { row: number; lane: number }[] {
    const failed = this.sql.failed.all(set);
    this.sql.dropFailed.run(set);
    return failed;
  }

  mark(set: string, { row, lane }: { row: number; lane: number }, mark: SetMark | null): boolean {
    return this.sql.mark.run(mark, set, row, lane).changes > 0;
  }

  marks(set: string): { row: number; lane: number; mark: SetMark }[] {
    return this.sql.marks.all(set);
  }

  /** Answers that have no mark yet; what failed needs none. */
  unmarked(set: string): number {
    return this.sql.unmarked.get(set) ?? 0;
  }

  /** Hides the names of the lanes, or shows them. @param seenEarly answers that had no mark yet when they were shown */
  setHidden(set: string, hidesNames: boolean, seenEarly: number): void {
    this.sql.setHidden.run(Number(hidesNames), seenEarly, set);
  }
}

function setOf({ id, app, name, job, hidesNames, seenEarly, createdAt, updatedAt }: SetRow): StoredSet {
  return { id, app, name, job, hidesNames: hidesNames === 1, seenEarly, createdAt, updatedAt };
}

/** A parameter that has `sets`. */
export interface HasSets {
  sets: SetStore;
}
