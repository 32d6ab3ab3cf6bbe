import type { Job, jobStates, Work } from "@/contract/jobs";
import type { Problem } from "@/core/problem/problem";
import type { Database } from "../database/database";
import { newId } from "../id";

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
}

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
      byId: database.prepare<[string], Row>("SELECT * FROM jobs WHERE id = ?"),
      latest: database.prepare<[number], Row>("SELECT * FROM jobs ORDER BY state = 'running' DESC, id DESC LIMIT ?"),
      // served by jobs_by_state
      running: database.prepare<[], Row>("SELECT * FROM jobs WHERE state = 'running'"),
      setState: database.prepare("UPDATE jobs SET state = ?, problem = ?, updated_at = ? WHERE id = ?"),
      setWork: database.prepare("UPDATE jobs SET work = ?, updated_at = ? WHERE id = ?"),
      setDone: database.prepare("UPDATE jobs SET done = ?, of = ?, updated_at = ? WHERE id = ?"),
      setPrice: database.prepare("UPDATE jobs SET price = ? WHERE id = ?"),
      left: database.prepare<[number], Row>("SELECT * FROM jobs WHERE state = 'waiting' AND updated_at < ?"),
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

  running(): StoredJob[] {
    return this.sql.running.all().map(read);
  }

  setState(id: string, state: State, now: number, problem: Problem | null = null): void {
    this.sql.setState.run(state, problem && JSON.stringify(problem), now, id);
  }

  setWork(id: string, work: Work, now: number): void {
    this.sql.setWork.run(JSON.stringify(work), now, id);
  }

  /** Writes how much of how much is done. */
  setDone(id: string, done: number, of: number, now: number): void {
    this.sql.setDone.run(done, of, now, id);
  }

  /** @param price in millionths */
  setPrice(id: string, price: number): void {
    this.sql.setPrice.run(price, id);
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
    done: row.done,
    of: row.of,
    price: row.price,
    mostPrice: row.most_price,
    problem: row.problem === null ? null : (JSON.parse(row.problem) as Problem),
    createdAt: row.created_at,
    updatedAt: row.updated_at,
  };
}
