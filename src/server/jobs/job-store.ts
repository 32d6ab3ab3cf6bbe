import type { Job } from "@/contract/jobs";
import type { jobStates, Work } from "@/core/jobs/work";
import type { Problem } from "@/core/problem/problem";
import type { Database } from "../database/database";
import { newId } from "../ground/id";

type State = (typeof jobStates)[number];

/** A job as it is stored. `app` is the id of its app; prices are in millionths. */
export interface StoredJob extends Omit<Job, "at" | "updatedAt"> {
  createdAt: number;
  updatedAt: number;
}

interface Row {
  id: string;
  app_id: string;
  work: string;
  state: State;
  done: number;
  of: number;
  price: number;
  most_price: number | null;
  problem: string | null;
  created_at: number;
  updated_at: number;
  /** Of its steps, where it has any. */
  steps: number;
  steps_done: number;
  steps_price: number;
}

/** A job with how far its steps are; served by the primary key of job_steps. */
const whole = `SELECT jobs.*,
    (SELECT count(*) FROM job_steps WHERE job_id = jobs.id) AS steps,
    (SELECT count(*) FROM job_steps WHERE job_id = jobs.id AND state IN ('done', 'failed')) AS steps_done,
    (SELECT coalesce(sum(price), 0) FROM job_steps WHERE job_id = jobs.id) AS steps_price
  FROM jobs`;

/** Jobs that are listed. */
const most = 20;

/** Long work, as it stands. */
export class JobStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      insert: database.prepare(
        `INSERT INTO jobs (id, app_id, work, state, most_price, created_at, updated_at)
         VALUES (@id, @app, @work, 'waiting', @most, @now, @now)`,
      ),
      byId: database.prepare<[string], Row>(`${whole} WHERE id = ?`),
      latest: database.prepare<[number], Row>(`${whole} ORDER BY state = 'running' DESC, id DESC LIMIT ?`),
      lastOf: database.prepare<[string, string], Row>(
        `${whole} WHERE app_id = ? AND work ->> 'kind' = ? ORDER BY id DESC LIMIT 1`,
      ),
      // served by jobs_by_state
      running: database.prepare<[], Row>(`${whole} WHERE state = 'running'`),
      setState: database.prepare("UPDATE jobs SET state = ?, problem = ?, updated_at = ? WHERE id = ?"),
      setWork: database.prepare("UPDATE jobs SET work = ?, updated_at = ? WHERE id = ?"),
      setDone: database.prepare("UPDATE jobs SET done = ?, of = ?, updated_at = ? WHERE id = ?"),
      touch: database.prepare("UPDATE jobs SET updated_at = ? WHERE id = ?"),
      left: database.prepare<[number], Row>(`${whole} WHERE state = 'waiting' AND updated_at < ?`),
      forget: database.prepare("DELETE FROM jobs WHERE state IN ('done', 'stopped', 'failed') AND updated_at < ?"),
    };
  }

  /** Adds a job, which waits. @param mostPrice what it may cost, in the currency; null for any price */
  add(app: string, work: Work, mostPrice: number | null, now: number): StoredJob {
    const id = newId("job");
    const inMillionths = mostPrice === null ? null : Math.round(mostPrice * 1_000_000);
    this.sql.insert.run({ id, app, work: JSON.stringify(work), most: inMillionths, now });
    return this.byId(id) as StoredJob;
  }

  byId(id: string): StoredJob | undefined {
    const row = this.sql.byId.get(id);
    return row && read(row);
  }

  /** The latest jobs, those that run first. */
  latest(): StoredJob[] {
    return this.sql.latest.all(most).map(read);
  }

  /** The latest job of a kind of an app. */
  lastOf(app: string, kind: Work["kind"]): StoredJob | undefined {
    const row = this.sql.lastOf.get(app, kind);
    return row && read(row);
  }

  running(): StoredJob[] {
    return this.sql.running.all().map(read);
  }

  setState(id: string, state: State, now: number, problem: Problem | null = null): void {
    this.sql.setState.run(state, problem && JSON.stringify(problem), now, id);
  }

  setWork(id: string, work: Work, now: number): void {
    this.sql.setWork.run(JSON.stringify(work), now, id);
  }

  /** Writes how much of how much is done, of work that has no steps. */
  setDone(id: string, done: number, of: number, now: number): void {
    this.sql.setDone.run(done, of, now, id);
  }

  /** Writes that something of it was done. */
  touch(id: string, now: number): void {
    this.sql.touch.run(now, id);
  }

  /** Jobs that wait since before a moment. */
  waitingSince(before: number): StoredJob[] {
    return this.sql.left.all(before).map(read);
  }

  /** Forgets what was over before a moment. */
  forget(before: number): void {
    this.sql.forget.run(before);
  }
}

function read(row: Row): StoredJob {
  return {
    id: row.id,
    app: row.app_id,
    work: JSON.parse(row.work) as Work,
    state: row.state,
    done: row.steps > 0 ? row.steps_done : row.done,
    of: row.steps > 0 ? row.steps : row.of,
    price: row.steps > 0 ? row.steps_price : row.price,
    mostPrice: row.most_price,
    problem: row.problem === null ? null : (JSON.parse(row.problem) as Problem),
    createdAt: row.created_at,
    updatedAt: row.updated_at,
  };
}

/** A parameter that has `jobs`. */
export interface HasJobs {
  jobs: JobStore;
}
