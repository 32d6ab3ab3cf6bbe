import type { RetrievalCut, RetrievalResult } from "@/core/sources/retrieval";
import type { Database } from "../database/database";
import { newId } from "../ground/id";

/** Where a question came from: a person typed it, a visitor's mark told of it, a model proposed it. */
export type QuestionComes = "typed" | "mark" | "proposed";

/** A question, with the words of a document that answer it. */
export interface StoredQuestion {
  id: string;
  source: string;
  question: string;
  quote: string;
  comes: QuestionComes;
  /** Whether it is asked: what is proposed is weeded first. */
  isAsked: boolean;
}

/** Questions that were asked, and what came of it. */
export interface StoredRetrieval {
  id: string;
  /** As they stood then: one that is deleted meanwhile is asked to the end. */
  asked: Pick<StoredQuestion, "id" | "question" | "source" | "quote">[];
  cuts: RetrievalCut[];
  results: RetrievalResult[];
  /** Epoch milliseconds. */
  at: number;
}

/** Runs that are kept of an app. */
const mostRuns = 20;

type QuestionRow = Omit<StoredQuestion, "isAsked"> & { isAsked: number };
type RunRow = Omit<StoredRetrieval, "asked" | "cuts" | "results"> & { asked: string; cuts: string; results: string };

/** Questions by which it is measured how well documents are found, and what came of asking them. */
export class RetrievalStore {
  private readonly sql;

  constructor(database: Database) {
    const columns = "id, source_id AS source, question, quote, comes, is_asked AS isAsked";
    this.sql = {
      // served by the unique index over app_id, question and quote
      questions: database.prepare<[string], QuestionRow>(
        `SELECT ${columns} FROM retrieval_questions WHERE app_id = ? ORDER BY id`,
      ),
      question: database.prepare<[string], QuestionRow & { app: string }>(
        `SELECT ${columns}, app_id AS app FROM retrieval_questions WHERE id = ?`,
      ),
      add: database.prepare(
        `INSERT OR IGNORE INTO retrieval_questions (id, app_id, source_id, question, quote, comes, is_asked, added_at)
         VALUES (@id, @app, @source, @question, @quote, @comes, @isAsked, @now)`,
      ),
      setAsked: database.prepare("UPDATE retrieval_questions SET is_asked = ? WHERE id = ?"),
      delete: database.prepare("DELETE FROM retrieval_questions WHERE id = ?"),
      begin: database.prepare(
        "INSERT INTO retrieval_runs (id, app_id, asked, cuts, results, at) VALUES (@id, @app, @asked, @cuts, '[]', @now)",
      ),
      setResults: database.prepare("UPDATE retrieval_runs SET results = ? WHERE id = ?"),
      // served by retrieval_runs_by_app
      runs: database.prepare<[string, number], RunRow>(
        "SELECT id, asked, cuts, results, at FROM retrieval_runs WHERE app_id = ? ORDER BY id DESC LIMIT ?",
      ),
      run: database.prepare<[string], RunRow>("SELECT id, asked, cuts, results, at FROM retrieval_runs WHERE id = ?"),
      thin: database.prepare(
        `DELETE FROM retrieval_runs WHERE app_id = @app AND id NOT IN (
           SELECT id FROM retrieval_runs WHERE app_id = @app ORDER BY id DESC LIMIT @most)`,
      ),
    };
  }

  /** The questions of an app, the first one first. */
  questions(app: string): StoredQuestion[] {
    return this.sql.questions.all(app).map(readQuestion);
  }

  question(id: string): (StoredQuestion & { app: string }) | undefined {
    const row = this.sql.question.get(id);
    return row && { ...readQuestion(row), app: row.app };
  }

  /** Adds a question, unless it is there. @returns whether it was not */
  add(app: string, { isAsked, ...question }: Omit<StoredQuestion, "id">, now: number): boolean {
    return this.sql.add.run({ id: newId("que"), app, ...question, isAsked: isAsked ? 1 : 0, now }).changes > 0;
  }

  setAsked(id: string, isAsked: boolean): void {
    this.sql.setAsked.run(isAsked ? 1 : 0, id);
  }

  delete(id: string): void {
    this.sql.delete.run(id);
  }

  /** Begins to ask questions on some cuts; of older runs the last ones are kept. */
  begin(app: string, asked: StoredRetrieval["asked"], cuts: readonly RetrievalCut[], now: number): string {
    const id = newId("run");
    this.sql.begin.run({ id, app, asked: JSON.stringify(asked), cuts: JSON.stringify(cuts), now });
    this.sql.thin.run({ app, most: mostRuns });
    return id;
  }

  setResults(id: string, results: readonly RetrievalResult[]): void {
    this.sql.setResults.run(JSON.stringify(results), id);
  }

  run(id: string): StoredRetrieval | undefined {
    const row = this.sql.run.get(id);
    return row && readRun(row);
  }

  /** What came of asking them, the last time first. */
  runs(app: string, most: number): StoredRetrieval[] {
    return this.sql.runs.all(app, most).map(readRun);
  }
}

function readQuestion({ id, source, question, quote, comes, isAsked }: QuestionRow): StoredQuestion {
  return { id, source, question, quote, comes, isAsked: isAsked === 1 };
}

function readRun({ asked, cuts, results, ...run }: RunRow): StoredRetrieval {
  return { ...run, asked: JSON.parse(asked), cuts: JSON.parse(cuts), results: JSON.parse(results) };
}

/** A parameter that has `retrieval`. */
export interface HasRetrieval {
  retrieval: RetrievalStore;
}
