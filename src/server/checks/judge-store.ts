import type { Verdict } from "@/core/checks/rubric";
import type { Candidate } from "@/core/reply/events";
import type { Database } from "../database/database";

/** A reply that was judged by hand, and what a judge said of it. */
export interface HandJudgement {
  id: number;
  message: string;
  reply: string;
  byHand: Verdict;
  /** Null where the judge did not say, and while it was not asked. */
  verdict: Verdict | null;
  /** The judge's words; null while it was not asked. */
  words: string | null;
}

/** Who judges the replies of apps, what was judged by hand, and what judges said of that. */
export class JudgeStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      judge: database.prepare<[string], Candidate>("SELECT provider, model FROM judges WHERE app_id = ?"),
      choose: database.prepare(
        `INSERT INTO judges (app_id, provider, model) VALUES (@app, @provider, @model)
         ON CONFLICT DO UPDATE SET provider = excluded.provider, model = excluded.model`,
      ),
      dismiss: database.prepare("DELETE FROM judges WHERE app_id = ?"),
      put: database.prepare(
        `INSERT INTO hand_judgements (app_id, rubric, message, reply, verdict, at)
         VALUES (@app, @rubric, @message, @reply, @verdict, @now)
         ON CONFLICT DO UPDATE SET verdict = excluded.verdict, at = excluded.at`,
      ),
      takeBack: database.prepare(
        "DELETE FROM hand_judgements WHERE app_id = @app AND rubric = @rubric AND message = @message AND reply = @reply",
      ),
      // served by the unique index of hand_judgements, and the primary key of judge_verdicts
      ofRubric: database.prepare<[string, string, string], HandJudgement>(
        `SELECT h.id, h.message, h.reply, h.verdict AS byHand, v.verdict, v.words
         FROM hand_judgements AS h LEFT JOIN judge_verdicts AS v ON v.judgement_id = h.id AND v.judge = ?
         WHERE h.app_id = ? AND h.rubric = ? ORDER BY h.id DESC`,
      ),
      rubrics: database
        .prepare<[string], string>("SELECT DISTINCT rubric FROM hand_judgements WHERE app_id = ?")
        .pluck(),
      keep: database.prepare(
        `INSERT INTO judge_verdicts (judgement_id, judge, verdict, words, at) VALUES (?, ?, ?, ?, ?)
         ON CONFLICT DO UPDATE SET verdict = excluded.verdict, words = excluded.words, at = excluded.at`,
      ),
    };
  }

  /** Who judges the replies of an app; undefined where nobody was chosen. */
  judge(app: string): Candidate | undefined {
    return this.sql.judge.get(app);
  }

  choose(app: string, judge: Candidate | null): void {
    if (judge) this.sql.choose.run({ app, ...judge });
    else this.sql.dismiss.run(app);
  }

  /** Keeps what was judged by hand; null takes it back. */
  judgeByHand(
    of: { app: string; rubric: string; message: string; reply: string },
    verdict: Verdict | null,
    now: number,
  ): void {
    if (verdict === null) this.sql.takeBack.run(of);
    else this.sql.put.run({ ...of, verdict, now });
  }

  /** What was judged by hand by a rubric, the newest first. @param judge whose word on it is given along */
  byHand(app: string, rubric: string, judge: string): HandJudgement[] {
    return this.sql.ofRubric.all(judge, app, rubric);
  }

  /** The rubrics by which something was judged by hand. */
  rubrics(app: string): string[] {
    return this.sql.rubrics.all(app);
  }

  /** Keeps what a judge said of a reply that was judged by hand. */
  keep(judgement: number, judge: string, { verdict, words }: { verdict: Verdict | null; words: string }, now: number) {
    this.sql.keep.run(judgement, judge, verdict, words, now);
  }
}

/** A parameter that has `judges`. */
export interface HasJudges {
  judges: JudgeStore;
}
