import { parseScript } from "@/core/checks/parse";
import { expectedIn } from "@/core/checks/script";
import type { Work } from "@/core/jobs/work";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasContents } from "../apps/content-store";
import type { HasRuns, RunCheck, RunColumn, RunStore, StoredRun, StoredTrial } from "../checks/run-store";
import { type Plan, type PlanNeeds, planOf, type TrialStep, trialSteps, type WantedRun } from "../checks/runs";
import { runTrial, type TrialEnd, type TrialNeeds } from "../checks/trial";
import { newId } from "../ground/id";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasRecordings } from "../recordings/recording-store";
import { RunTraffic } from "../recordings/run-traffic";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";
import type { HasSteps } from "./step-store";
import { doSteps } from "./steps";

/** What of the process is used here. */
export type CheckRunNeeds = PlanNeeds &
  TrialNeeds &
  HasRuns &
  HasRecordings &
  HasJobs &
  HasSteps &
  HasRunner &
  HasChanges;

type Checks = Extract<Work, { kind: "checks" }>;

/** Trials that are under way at once: most of them wait for a place of their provider. */
const atOnce = 64;
/** Milliseconds between two times at which those who look are told of new trials. */
const rest = 250;

/** Begins a run. @param mostPrice what it may cost, in the currency; null for any price @throws {Refusal} */
export function beginRun(home: CheckRunNeeds, app: StoredApp, wanted: WantedRun, mostPrice: number | null): StoredRun {
  const plan = planOf(home, app, wanted);
  const { trials, seed, against, origin, answers = "called", pace = "at-once", records = false } = wanted;
  if (answers === "recorded" && home.recordings.kept(app.id).count === 0)
    refuse("bad-request", `Nothing is recorded of ${app.name}.`, {
      advice: "Run its checks with what they are answered recorded, or give it a file of recordings.",
    });
  // the draft is used from here on
  if (plan.columns.some(({ base }) => base === "draft")) {
    const number = home.apps.fix(app.id, app.draftHash, Date.now());
    for (const column of plan.columns) if (column.base === "draft") column.revision = number;
  }
  return home.database
    .transaction(() => {
      const run = home.runs.add(
        { app: app.id, trials, seed, against, origin, answers, pace, records, now: Date.now() },
        plan.columns,
        plan.checks.map(({ check: _check, ...check }) => check),
      );
      const steps = trialSteps([...plan.checks.keys()], plan.columns.length, 1, trials);
      start(
        home,
        run,
        wanted.leavesOutUnchanged && answers === "called"
          ? steps.filter((step) => !taken(home, run, plan, step))
          : steps,
        mostPrice,
      );
      return home.runs.byId(run.id) as StoredRun;
    })
    .immediate();
}

/** Asks for further trials of some checks on all columns, or of all checks. @throws {Refusal} `conflict` while it runs */
export function addTrials(
  home: CheckRunNeeds,
  run: StoredRun,
  { checks, trials }: { checks: readonly number[]; trials: number },
): StoredRun {
  if (isUnderWay(home, run))
    refuse("conflict", "This run is still under way.", { advice: "Wait until it has ended, or stop it." });
  const known = home.runs.checks(run.id).map(({ place }) => place);
  const made = home.runs.trials(run.id);
  const columns = home.runs.columns(run.id).length;
  const steps = checks.flatMap((check) => {
    if (!known.includes(check)) refuse("not-found", `This run has no check ${check}.`);
    const last = Math.max(0, ...made.filter((trial) => trial.check === check).map(({ trial }) => trial));
    return trialSteps([check], columns, last + 1, trials);
  });
  start(home, run, steps, null);
  return home.runs.byId(run.id) as StoredRun;
}

/** Goes on with a run that was stopped: what ended is not asked again. @throws {Refusal} `conflict` where nothing is left */
export function resumeRun(home: CheckRunNeeds, run: StoredRun): StoredRun {
  const job = run.job === null ? undefined : home.jobs.byId(run.job);
  if (!job || isUnderWay(home, run) || job.done === job.of)
    refuse("conflict", "There is nothing left of this run to go on with.");
  home.runs.setEnded(run.id, null);
  home.runner.start(job.id);
  return home.runs.byId(run.id) as StoredRun;
}

/** Stops a run, and waits until it has ended. */
export async function stopRun(home: CheckRunNeeds, run: StoredRun): Promise<StoredRun> {
  if (run.job !== null) await home.runner.stop(run.job);
  return home.runs.byId(run.id) ?? refuse("not-found", "The run was deleted.");
}

/** Deletes a run; what is under way of it is stopped. */
export async function deleteRun(home: CheckRunNeeds, run: StoredRun): Promise<void> {
  await stopRun(home, run);
  home.runs.delete(run.id);
}

/** Whether trials of a run are being made. */
export function isUnderWay({ jobs }: HasJobs, { job }: StoredRun): boolean {
  const state = job === null ? undefined : jobs.byId(job)?.state;
  return state === "running" || state === "waiting";
}

function start(home: CheckRunNeeds, run: StoredRun, steps: readonly TrialStep[], mostPrice: number | null): void {
  const now = Date.now();
  if (steps.length === 0) {
    home.runs.setEnded(run.id, now);
    return;
  }
  const known = run.job === null ? undefined : home.jobs.byId(run.job);
  const job = known ?? home.jobs.add(run.app, { kind: "checks", run: run.id }, mostPrice, now);
  home.runs.setJob(run.id, job.id);
  home.runs.setEnded(run.id, null);
  home.steps.append(job.id, steps);
  home.runner.start(job.id);
}

/** Takes a trial from an earlier run, where nothing of it has changed since. */
function taken({ runs }: HasRuns, run: StoredRun, { checks, columns }: Plan, step: TrialStep): boolean {
  const [check, column] = [checks[step.check], columns[step.column]];
  if (!check || !column) return false;
  const seed = run.seed + step.trial;
  const same = runs.same({ app: run.app, textHash: check.textHash, contentHash: column.contentHash, seed });
  if (!same) return false;
  const copy = { ...same, ...step, id: newId("tri"), run: run.id, takenFrom: same.takenFrom ?? same.id, price: 0 };
  runs.addTrial(copy, runs.result(same.id));
  return true;
}

/** Makes the trials that are left of a run. */
export async function runChecks(
  home: CheckRunNeeds,
  { id: job, app: appId, mostPrice }: StoredJob,
  signal: AbortSignal,
): Promise<"done"> {
  const run = home.runs.byId(workOf(home, job).run) ?? refuse("not-found", "The run was deleted.");
  const app = home.apps.byId(appId) ?? refuse("not-found", "The app was deleted.");
  const [checks, columns] = [readChecks(home.runs, run.id), home.runs.columns(run.id)];
  const traffic = new RunTraffic(home.recordings, { ...run, app: appId });
  let told = 0;
  await doSteps<TrialStep>(home, {
    job,
    mostPrice,
    atOnce,
    signal,
    tell() {
      if (performance.now() - told < rest) return;
      told = performance.now();
      home.changes.tell(run.id);
      home.changes.tellJobs();
    },
    async work({ work: step }, stopped) {
      const [check, column] = [checks[step.check], columns[step.column]];
      if (!check || !column) refuse("internal", "The run has no such trial.");
      const id = newId("tri");
      const seed = run.seed + step.trial;
      const slot = { check: check.read.check.name, column: column.name, trial: step.trial };
      const of = {
        id,
        purpose: "check" as const,
        app,
        candidate: candidateOf(home, column),
        seed,
        traffic: traffic.forTrial(slot),
        ...check.read,
      };
      const end = await runTrial(home, of, stopped);
      stopped.throwIfAborted();
      home.runs.addTrial(asStored({ id, run: run.id, seed, ...step }, end, check.order), end.result);
      return { price: end.price };
    },
  });
  home.runs.setEnded(run.id, Date.now());
  home.changes.tell(run.id);
  return "done";
}

/** Tells those who look that a run was stopped, or failed. */
export function endRun(home: HasRuns & HasJobs & HasChanges, job: string): void {
  const work = home.jobs.byId(job)?.work;
  if (work?.kind !== "checks" || !home.runs.byId(work.run)) return;
  home.runs.setEnded(work.run, Date.now());
  home.changes.tell(work.run);
}

function asStored(
  of: Pick<StoredTrial, "id" | "run" | "seed"> & TrialStep,
  { result, ms, price, currency }: TrialEnd,
  order: readonly number[],
): StoredTrial {
  const judged = [...result.replies.flatMap((reply) => reply.judged), ...result.whole];
  const byLine = new Map(judged.map(({ line, outcome }) => [line, outcome]));
  return {
    ...of,
    outcome: result.outcome,
    outcomes: order.map((line) => (byLine.get(line) ?? "silent").charAt(0)).join(""),
    ms,
    price,
    currency,
    version: result.replies.find(({ figures }) => figures.version)?.figures.version ?? null,
    takenFrom: null,
    at: Date.now(),
  };
}

/** The checks of a run as they are read again, by their places; with the lines of what they expect, in order. */
function readChecks(runs: RunStore, run: string) {
  return runs.checks(run).map(({ textHash }: RunCheck) => {
    const { script } = parseScript(runs.text(textHash));
    const check = script.checks[0];
    if (!check) throw new Error(`Run ${run} has a check that says nothing.`);
    return { read: { check, filed: script.filed }, order: expectedIn(check).map(({ line }) => line) };
  });
}

function candidateOf({ contents }: HasContents, { revision: number, contentHash: hash }: RunColumn) {
  return { number, hash, content: contents.read(hash) };
}

function workOf({ jobs }: HasJobs & HasApps, id: string): Checks {
  const work = jobs.byId(id)?.work;
  if (work?.kind !== "checks") refuse("not-found", `There is no job ${id}.`);
  return work;
}
