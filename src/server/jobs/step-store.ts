import type { Problem } from "@/core/problem/problem";
import type { Database } from "../database/database";

/** A step of a job, as it is claimed. `work` is what it does. */
export interface Step<W = unknown> {
  /** From 1. */
  place: number;
  work: W;
  /** How often it was begun, this time included. */
  tries: number;
}

/** How far the steps of a job are; the price in millionths. */
export interface StepsStanding {
  done: number;
  of: number;
  price: number;
}

/** A step that ended, with what is kept of it. */
export type StepOutcome<W, O> = { work: W } & ({ kind: "done"; of: O } | { kind: "failed"; problem: Problem });

/** How often a step may be begun: once more than a kill cuts it off. */
const mostTries = 2;

/** The steps of jobs, as rows. */
export class StepStore {
  private readonly sql;

  constructor(private readonly database: Database) {
    this.sql = {
      add: database.prepare("INSERT INTO job_steps (job_id, place, work) VALUES (?, ?, ?)"),
      // served by job_steps_by_state
      first: database.prepare<[string], { place: number; work: string; tries: number }>(
        "SELECT place, work, tries FROM job_steps WHERE job_id = ? AND state = 'waiting' ORDER BY place LIMIT 1",
      ),
      isRunning: database.prepare<[string]>("SELECT 1 FROM job_steps WHERE job_id = ? AND state = 'running'"),
      claim: database.prepare(
        "UPDATE job_steps SET state = 'running', tries = tries + 1 WHERE job_id = ? AND place = ? AND state = 'waiting'",
      ),
      end: database.prepare(
        "UPDATE job_steps SET state = ?, outcome = ?, price = ? WHERE job_id = ? AND place = ? AND state = 'running'",
      ),
      putBack: database.prepare(
        "UPDATE job_steps SET state = 'waiting', tries = tries - 1 WHERE job_id = ? AND place = ? AND state = 'running'",
      ),
      giveUp: database.prepare(
        `UPDATE job_steps SET state = 'failed', outcome = ? WHERE job_id = ? AND state = 'running' AND tries >= ${mostTries}`,
      ),
      retry: database.prepare(
        "UPDATE job_steps SET state = 'waiting', tries = 0, outcome = NULL WHERE job_id = ? AND state = 'failed'",
      ),
      again: database.prepare("UPDATE job_steps SET state = 'waiting' WHERE job_id = ? AND state = 'running'"),
      append: database.prepare(
        "INSERT INTO job_steps (job_id, place, work) SELECT @job, coalesce(max(place), 0) + 1, @work FROM job_steps WHERE job_id = @job",
      ),
      outcomes: database.prepare<[string], { work: string; state: string; outcome: string | null }>(
        "SELECT work, state, outcome FROM job_steps WHERE job_id = ? AND state IN ('done', 'failed') ORDER BY place",
      ),
      standing: database.prepare<[string], StepsStanding>(
        `SELECT count(*) FILTER (WHERE state IN ('done', 'failed')) AS done, count(*) AS "of", coalesce(sum(price), 0) AS price
         FROM job_steps WHERE job_id = ?`,
      ),
    };
  }

  /** Adds the steps of a job, in order; those that are there already stay. */
  add(job: string, works: readonly unknown[]): void {
    this.database
      .transaction(() => {
        if (this.standing(job).of > 0) return;
        for (const [at, work] of works.entries()) this.sql.add.run(job, at + 1, JSON.stringify(work));
      })
      .immediate();
  }

  /** Adds further steps behind those that there are. */
  append(job: string, works: readonly unknown[]): void {
    this.database
      .transaction(() => {
        for (const work of works) this.sql.append.run({ job, work: JSON.stringify(work) });
      })
      .immediate();
  }

  /**
   * Claims the first step that waits, for whoever does it: nobody else gets it.
   * @param inOrder whether a step waits until the one before it has ended
   */
  claim<W>(job: string, inOrder = false): Step<W> | undefined {
    return this.database
      .transaction((): Step<W> | undefined => {
        if (inOrder && this.sql.isRunning.get(job)) return undefined;
        const first = this.sql.first.get(job);
        if (!first || this.sql.claim.run(job, first.place).changes === 0) return undefined;
        return { place: first.place, work: JSON.parse(first.work) as W, tries: first.tries + 1 };
      })
      .immediate();
  }

  /** Writes what came of a step that was claimed. @param price in millionths */
  end(
    job: string,
    place: number,
    outcome: { kind: "done"; of?: unknown } | { kind: "failed"; problem: Problem },
    price: number,
  ): void {
    const written = outcome.kind === "done" ? outcome.of : outcome.problem;
    const text = written === undefined ? null : JSON.stringify(written);
    this.sql.end.run(outcome.kind, text, price, job, place);
  }

  /** Puts a step back that was claimed and not begun. */
  putBack(job: string, place: number): void {
    this.sql.putBack.run(job, place);
  }

  /** Has those done once more that failed. */
  retry(job: string): void {
    this.sql.retry.run(job);
  }

  /** Has those done once more that a dead process left; those that it left twice have failed. */
  recover(job: string, problem: Problem): void {
    this.database
      .transaction(() => {
        this.sql.giveUp.run(JSON.stringify(problem), job);
        this.sql.again.run(job);
      })
      .immediate();
  }

  /** What came of the steps of a job that ended, in order. */
  outcomes<W, O>(job: string): StepOutcome<W, O>[] {
    return this.sql.outcomes.all(job).map(({ work, state, outcome }): StepOutcome<W, O> => {
      const of = outcome === null ? undefined : JSON.parse(outcome);
      return { work: JSON.parse(work), ...(state === "done" ? { kind: "done", of } : { kind: "failed", problem: of }) };
    });
  }

  standing(job: string): StepsStanding {
    return this.sql.standing.get(job) as StepsStanding;
  }
}

/** A parameter that has `steps`. */
export interface HasSteps {
  steps: StepStore;
}
