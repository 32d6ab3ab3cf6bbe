import type { Work } from "@/core/jobs/work";
import type { StoredApp } from "../apps/app-store";
import type { HandJudgement, HasJudges } from "../checks/judge-store";
import { type JudgingNeeds, judged, judgeKey } from "../checks/judges";
import { newId } from "../ground/id";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";
import type { HasSteps } from "./step-store";
import { doSteps } from "./steps";

/** What of the process is used here. */
export type JudgingJobNeeds = JudgingNeeds & HasJobs & HasSteps & HasRunner & HasChanges;

type Judging = Extract<Work, { kind: "judging" }>;

/** Judgements that are under way at once: most of them wait for a place of the judge's provider. */
const atOnce = 16;

/** Replies that were judged by hand by a rubric, and of which the judge of an app said nothing yet. */
export function unasked({ judges }: HasJudges, app: string, rubric: string): HandJudgement[] {
  const judge = judges.judge(app);
  return judge ? judges.byHand(app, rubric, judgeKey(judge)).filter(({ words }) => words === null) : [];
}

/**
 * Begins to ask an app's judge about what was judged by hand by a rubric.
 * @throws {Refusal} `misconfigured` where no judge is chosen, `conflict` where nothing is left to be asked
 */
export function beginJudging(home: JudgingJobNeeds, app: StoredApp, rubric: string): StoredJob {
  if (!home.judges.judge(app.id))
    refuse("misconfigured", `${app.name} has no judge.`, { advice: "Choose who judges first." });
  const left = unasked(home, app.id, rubric);
  if (left.length === 0)
    refuse("conflict", "The judge said something of each of these replies.", {
      advice: "Judge further replies by hand.",
    });
  const job = home.jobs.add(app.id, { kind: "judging", rubric }, null, Date.now());
  home.steps.add(
    job.id,
    left.map(({ id }) => id),
  );
  home.runner.start(job.id);
  return job;
}

/** Asks the judge what is left to be asked. */
export async function runJudging(
  home: JudgingJobNeeds,
  { id: job, app: appId, work }: StoredJob,
  signal: AbortSignal,
): Promise<"done"> {
  const app = home.apps.byId(appId) ?? refuse("not-found", "The app was deleted.");
  const { rubric } = work as Judging;
  const judge = home.judges.judge(appId) ?? refuse("misconfigured", `${app.name} has no judge any more.`);
  const key = judgeKey(judge);
  await doSteps<number>(home, {
    job,
    mostPrice: null,
    atOnce,
    signal,
    tell: () => home.changes.tellJobs(),
    async work({ work: id }, stopped) {
      const one = home.judges.byHand(appId, rubric, key).find((each) => each.id === id);
      if (!one) return { price: 0 };
      const { message, reply: text } = one;
      const { price, ...said } = await judged(home, { id: newId("tri"), app, judge, rubric, message, text }, stopped);
      stopped.throwIfAborted();
      home.judges.keep(id, key, said, Date.now());
      return { price };
    },
  });
  return "done";
}
