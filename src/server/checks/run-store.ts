import type { Tally } from "@/core/checks/chance";
import type { Outcome } from "@/core/checks/outcome";
import { type TrialResult, trialResultSchema } from "@/core/checks/trial";
import type { LaneBase } from "@/core/comparing/lane";
import type { Database } from "../database/database";
import type { Traffic } from "../exchange/traffic";
import { newId } from "../ground/id";
import type { AnswersFrom } from "../recordings/run-traffic";

/** Who started a run. */
export type RunOrigin = "bench" | "terminal" | "schedule";

/** A run as it is stored. */
export interface StoredRun {
  id: string;
  app: string;
  /** The job that does it; null once that is forgotten. */
  job: string | null;
  /** Trials of each check on each column that were wanted at first. */
  trials: number;
  /** Of the first trial, less one. */
  seed: number;
  /** The place of the column that the others are held against. */
  against: number;
  origin: RunOrigin;
  /** Where its answers come from, how fast those are played that are recorded, and whether what is called is recorded. */
  answers: AnswersFrom;
  pace: Traffic["pace"];
  records: boolean;
  startedAt: number;
  endedAt: number | null;
}

/** A candidate of a run. */
export interface RunColumn {
  place: number;
  name: string;
  base: LaneBase;
  revision: number;
  contentHash: string;
}

/** A check of a run. */
export interface RunCheck {
  place: number;
  script: string;
  /** Where its lines stood in the script. */
  lines: number[];
  name: string;
  textHash: string;
}

/** One go of a check on a candidate. Prices are in millionths. */
export interface StoredTrial {
  id: string;
  run: string;
  check: number;
  column: number;
  trial: number;
  seed: number;
  outcome: Outcome;
  /** The first letter of how each expectation came out, in the order of their lines. */
  outcomes: string;
  ms: number;
  price: number;
  currency: string | null;
  version: string | null;
  /** The trial of an earlier run that this is. */
  takenFrom: string | null;
  at: number;
}

/** When the checks of an app are run by themselves: every so many hours, each so often. */
export interface Schedule {
  every: number;
  trials: number;
  /** Epoch milliseconds. */
  nextAt: number;
}

interface RunRow extends Omit<StoredRun, "records"> {
  records: number;
}

interface ColumnRow extends Omit<RunColumn, "base"> {
  base: string;
}

interface CheckRow extends Omit<RunCheck, "lines"> {
  lines: string;
}

const columns = `id, app_id AS app, job_id AS job, trials, seed, against, origin, answers, pace, records, started_at AS startedAt, ended_at AS endedAt`;
const trialColumns = `trials.id, run_id AS run, check_place AS "check", column_place AS "column", trial, trials.seed, outcome,
  outcomes, ms, price, currency, version, taken_from AS takenFrom, at`;

function runOf(row: RunRow): StoredRun {
  return { ...row, records: row.records === 1 };
}

/**
 * Runs of checks, their columns, and their trials. What was played says nothing of how a model answers: only runs that
 * called their providers are what others are held against.
 */
export class RunStore {
  private readonly sql;

  constructor(private readonly database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO runs (id, app_id, trials, seed, against, origin, answers, pace, records, started_at)
         VALUES (@id, @app, @trials, @seed, @against, @origin, @answers, @pace, @records, @now)`,
      ),
      addColumn: database.prepare(
        `INSERT INTO run_columns (run_id, place, name, base, revision, content_hash)
         VALUES (@run, @place, @name, @base, @revision, @contentHash)`,
      ),
      addCheck: database.prepare(
        `INSERT INTO run_checks (run_id, place, script, lines, name, text_hash)
         VALUES (@run, @place, @script, @lines, @name, @textHash)`,
      ),
      keepText: database.prepare("INSERT INTO check_texts (hash, text) VALUES (?, ?) ON CONFLICT DO NOTHING"),
      // served by runs_by_app and trials_by_run; the newest are enough to be judged by hand
      repliesOf: database.prepare<[string, string], { message: string; text: string }>(
        `SELECT r.value ->> '$.message' AS message, r.value ->> '$.text' AS text
         FROM (SELECT id FROM runs WHERE app_id = ? ORDER BY id DESC LIMIT 20) AS newest
         JOIN trials ON trials.run_id = newest.id
         JOIN run_checks AS c ON c.run_id = newest.id AND c.place = trials.check_place
         JOIN check_texts AS t ON t.hash = c.text_hash AND instr(t.text, ?) > 0
         JOIN json_each(trials.result, '$.replies') AS r
         WHERE r.value ->> '$.text' != '' LIMIT 500`,
      ),
      text: database.prepare<[string], string>("SELECT text FROM check_texts WHERE hash = ?").pluck(),
      setJob: database.prepare("UPDATE runs SET job_id = ? WHERE id = ?"),
      setEnded: database.prepare("UPDATE runs SET ended_at = ? WHERE id = ?"),
      byId: database.prepare<[string], RunRow>(
        `SELECT ${columns} FROM runs WHERE id = ? AND app_id NOT IN (SELECT id FROM apps WHERE is_leaving = 1)`,
      ),
      // served by runs_by_app
      ofApp: database.prepare<[string, string, number], RunRow>(
        `SELECT ${columns} FROM runs WHERE app_id = ? AND id < ? ORDER BY id DESC LIMIT ?`,
      ),
      columns: database.prepare<[string], ColumnRow>(
        `SELECT place, name, base, revision, content_hash AS contentHash FROM run_columns WHERE run_id = ? ORDER BY place`,
      ),
      checks: database.prepare<[string], CheckRow>(
        `SELECT place, script, lines, name, text_hash AS textHash FROM run_checks WHERE run_id = ? ORDER BY place`,
      ),
      addTrial: database.prepare(
        `INSERT OR REPLACE INTO trials (id, run_id, check_place, column_place, trial, seed, outcome, outcomes, ms, price,
           currency, version, result, taken_from, at)
         VALUES (@id, @run, @check, @column, @trial, @seed, @outcome, @outcomes, @ms, @price, @currency, @version, @result,
           @takenFrom, @at)`,
      ),
      // served by trials_by_run
      trials: database.prepare<[string], StoredTrial>(
        `SELECT ${trialColumns} FROM trials WHERE run_id = ? ORDER BY check_place, column_place, trial`,
      ),
      trial: database.prepare<[string], StoredTrial>(`SELECT ${trialColumns} FROM trials WHERE id = ?`),
      result: database.prepare<[string], string>("SELECT result FROM trials WHERE id = ?").pluck(),
      // served by trials_by_seed
      same: database
        .prepare<[number, string, string, string], string>(
          `SELECT trials.id FROM trials
         JOIN runs ON runs.id = trials.run_id
         JOIN run_checks ON run_checks.run_id = trials.run_id AND run_checks.place = trials.check_place
         JOIN run_columns ON run_columns.run_id = trials.run_id AND run_columns.place = trials.column_place
         WHERE trials.seed = ? AND trials.outcome <> 'silent' AND runs.app_id = ? AND run_checks.text_hash = ?
           AND run_columns.content_hash = ? AND runs.answers = 'called'
         ORDER BY trials.at DESC LIMIT 1`,
        )
        .pluck(),
      /** What a trial of a check on a model cost, of the latest ones. */
      price: database
        .prepare<[string, string, string], number | null>(
          `SELECT avg(price) FROM (
           SELECT trials.price FROM trials
           JOIN runs ON runs.id = trials.run_id AND runs.app_id = ?
           JOIN run_checks ON run_checks.run_id = trials.run_id AND run_checks.place = trials.check_place
           JOIN run_columns ON run_columns.run_id = trials.run_id AND run_columns.place = trials.column_place
           WHERE run_checks.text_hash = ? AND run_columns.content_hash = ? AND trials.outcome <> 'silent'
             AND trials.taken_from IS NULL AND runs.answers = 'called'
           ORDER BY trials.at DESC LIMIT 20)`,
        )
        .pluck(),
      // served by run_columns_by_content
      latestOf: database
        .prepare<[string, string], string>(
          `SELECT run_id FROM run_columns JOIN runs ON runs.id = run_id
         WHERE content_hash = ? AND app_id = ? AND ended_at IS NOT NULL AND answers = 'called'
         ORDER BY run_id DESC LIMIT 1`,
        )
        .pluck(),
      // served by run_columns_by_content
      before: database.prepare<[string, string, string], { held: number; of: number }>(
        `SELECT count(*) FILTER (WHERE outcome = 'held') AS held, count(*) AS "of"
         FROM run_columns
         JOIN runs ON runs.id = run_columns.run_id AND runs.answers = 'called'
         JOIN trials ON trials.run_id = run_columns.run_id AND trials.column_place = run_columns.place
         JOIN run_checks ON run_checks.run_id = trials.run_id AND run_checks.place = trials.check_place
         WHERE content_hash = ? AND text_hash = ? AND trials.run_id < ? AND outcome <> 'silent' AND taken_from IS NULL`,
      ),
      schedule: database.prepare<[string], Schedule>(
        "SELECT every, trials, next_at AS nextAt FROM check_schedules WHERE app_id = ?",
      ),
      setSchedule: database.prepare(
        `INSERT INTO check_schedules (app_id, every, trials, next_at) VALUES (?, ?, ?, ?)
         ON CONFLICT DO UPDATE SET every = excluded.every, trials = excluded.trials, next_at = excluded.next_at`,
      ),
      dropSchedule: database.prepare("DELETE FROM check_schedules WHERE app_id = ?"),
      due: database.prepare<[number], { app: string; every: number; trials: number }>(
        "SELECT app_id AS app, every, trials FROM check_schedules WHERE next_at <= ?",
      ),
      delete: database.prepare("DELETE FROM runs WHERE id = ?"),
      sweepTexts: database.prepare(
        "DELETE FROM check_texts WHERE NOT EXISTS (SELECT 1 FROM run_checks WHERE text_hash = check_texts.hash)",
      ),
    };
  }

  /** Adds a run with its columns and its checks, each with what it says. */
  add(
    of: Omit<StoredRun, "id" | "job" | "startedAt" | "endedAt"> & { now: number },
    runColumns: readonly Omit<RunColumn, "place">[],
    checks: readonly (Omit<RunCheck, "place"> & { text: string })[],
  ): StoredRun {
    const id = newId("run");
    this.database
      .transaction(() => {
        this.sql.insert.run({ id, ...of, records: of.records ? 1 : 0 });
        for (const [place, column] of runColumns.entries())
          this.sql.addColumn.run({ run: id, place, ...column, base: String(column.base) });
        for (const [place, { text, lines, ...check }] of checks.entries()) {
          this.sql.keepText.run(check.textHash, text);
          this.sql.addCheck.run({ run: id, place, lines: JSON.stringify(lines), ...check });
        }
      })
      .immediate();
    return this.byId(id) as StoredRun;
  }

  setJob(id: string, job: string): void {
    this.sql.setJob.run(job, id);
  }

  /** @param at epoch milliseconds; null where it goes on */
  setEnded(id: string, at: number | null): void {
    this.sql.setEnded.run(at, id);
  }

  byId(id: string): StoredRun | undefined {
    const row = this.sql.byId.get(id);
    return row && runOf(row);
  }

  /** The runs of an app, the latest first. @param before the id of a run */
  ofApp(app: string, before: string | undefined, most: number): StoredRun[] {
    // ids sort by time, and "~" stands behind all of them
    return this.sql.ofApp.all(app, before ?? "~", most).map(runOf);
  }

  columns(run: string): RunColumn[] {
    return this.sql.columns.all(run).map((row) => ({
      ...row,
      base: row.base === "live" || row.base === "draft" ? row.base : Number(row.base),
    }));
  }

  checks(run: string): RunCheck[] {
    return this.sql.checks.all(run).map((row) => ({ ...row, lines: JSON.parse(row.lines) as number[] }));
  }

  /** What a check said when it was run. */
  text(hash: string): string {
    return this.sql.text.get(hash) ?? "";
  }

  addTrial(trial: StoredTrial, result: TrialResult): void {
    this.sql.addTrial.run({ ...trial, result: JSON.stringify(result) });
  }

  trials(run: string): StoredTrial[] {
    return this.sql.trials.all(run);
  }

  trial(id: string): StoredTrial | undefined {
    return this.sql.trial.get(id);
  }

  /** What was said in a trial, and how it was judged. */
  result(id: string): TrialResult {
    return trialResultSchema.parse(JSON.parse(this.sql.result.get(id) ?? "null"));
  }

  /** A trial of the same check on the same content with the same seed that was not silent; undefined where there is none. */
  same(of: { app: string; textHash: string; contentHash: string; seed: number }): StoredTrial | undefined {
    const id = this.sql.same.get(of.seed, of.app, of.textHash, of.contentHash);
    return id === undefined ? undefined : this.trial(id);
  }

  /** Millionths that a trial of a check on a content took of late; undefined where none was made. */
  usualPrice(app: string, textHash: string, contentHash: string): number | undefined {
    return this.sql.price.get(app, textHash, contentHash) ?? undefined;
  }

  /** The latest run that has ended and had a content among its columns. */
  latestOf(app: string, contentHash: string): StoredRun | undefined {
    const id = this.sql.latestOf.get(contentHash, app);
    return id === undefined ? undefined : this.byId(id);
  }

  /** How a check came out on a content in all runs before one. */
  before(contentHash: string, textHash: string, run: string): Tally {
    return this.sql.before.get(contentHash, textHash, run) ?? { held: 0, of: 0 };
  }

  /** When the checks of an app are run by themselves; undefined where they are not. */
  schedule(app: string): Schedule | undefined {
    return this.sql.schedule.get(app);
  }

  /** @param schedule null ends it */
  setSchedule(app: string, schedule: Schedule | null): void {
    if (schedule === null) this.sql.dropSchedule.run(app);
    else this.sql.setSchedule.run(app, schedule.every, schedule.trials, schedule.nextAt);
  }

  /** The apps whose checks are to be run by themselves by now. */
  due(now: number): { app: string; every: number; trials: number }[] {
    return this.sql.due.all(now);
  }

  /** Deletes a run for good. */
  delete(id: string): void {
    this.sql.delete.run(id);
    this.sql.sweepTexts.run();
  }

  /** What was said in the newest trials of checks whose text holds some words. */
  repliesOf(app: string, words: string): { message: string; text: string }[] {
    return this.sql.repliesOf.all(app, words);
  }
}

/** A parameter that has `runs`. */
export interface HasRuns {
  runs: RunStore;
}
