import { setTimeout as rest } from "node:timers/promises";
import type { SetReply } from "@/core/comparing/sets/answer";
import type { Row } from "@/core/comparing/sets/rows";
import { textOf } from "@/core/conversation/pieces";
import type { Work } from "@/core/jobs/work";
import type { Problem } from "@/core/problem/problem";
import type { Revision } from "@/core/revision/revision";
import type { StoredApp } from "../apps/app-store";
import type { HasSets, SetLane, StoredSet } from "../comparing/set-store";
import { addSet, setAt, type WantedSet } from "../comparing/sets";
import { newId } from "../ground/id";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import { type AnswerNeeds, answer, type TrialOf } from "../trials/answer";
import { sumUpTrial } from "../trials/summing";
import { TrialLine } from "../trials/trial-line";
import type { HasJobs, StoredJob } from "./job-store";
import type { HasRunner } from "./runner";
import type { HasSteps } from "./step-store";
import { doSteps } from "./steps";

/** What of the process is used here. */
export type SetRunNeeds = AnswerNeeds & HasSets & HasJobs & HasSteps & HasRunner & HasChanges;

/** A step: what a row says, to a lane. */
interface SetStep {
  row: number;
  lane: number;
}

/** Answers that are under way at once: most of them wait for a place of their provider. */
const atOnce = 64;
/** Milliseconds between two times at which those who look are told of new answers. */
const pause = 250;
/** Each answer is drawn with the same seed, whatever stands before it in the set. */
const seed = 1;

/** Begins to ask a set. @param mostPrice what it may cost, in the currency; null for any price @throws {Refusal} */
export function beginSet(home: SetRunNeeds, app: StoredApp, wanted: WantedSet, mostPrice: number | null): StoredSet {
  return home.database
    .transaction(() => {
      const set = addSet(home, app, wanted, Date.now());
      // all lanes of a row side by side, so that providers with many places are not kept waiting by those with few
      const steps = wanted.rows.flatMap((_, row) => wanted.lanes.map((_, lane): SetStep => ({ row, lane })));
      start(home, set, steps, mostPrice);
      return setAt(home, set.id);
    })
    .immediate();
}

/** Goes on with a set that was stopped; what has ended is not asked again. @throws {Refusal} `conflict` where nothing is left */
export function resumeSet(home: SetRunNeeds, set: StoredSet): StoredSet {
  const job = set.job === null ? undefined : home.jobs.byId(set.job);
  if (!job || isUnderWay(home, set) || job.done === job.of)
    refuse("conflict", "There is nothing left of this set to go on with.");
  home.runner.start(job.id);
  return setAt(home, set.id);
}

/** Asks once more what has failed. @throws {Refusal} `conflict` while the set is asked, and where nothing has failed */
export function askFailedAgain(home: SetRunNeeds, set: StoredSet): StoredSet {
  if (isUnderWay(home, set))
    refuse("conflict", "This set is still under way.", { advice: "Wait until it has ended, or stop it." });
  return home.database
    .transaction(() => {
      const failed = home.sets.takeFailed(set.id);
      if (failed.length === 0) refuse("conflict", "Nothing of this set has failed.");
      start(home, set, failed, null);
      return setAt(home, set.id);
    })
    .immediate();
}

/** Stops a set, and waits until it has ended. */
export async function stopSet(home: SetRunNeeds, set: StoredSet): Promise<StoredSet> {
  if (set.job !== null) await home.runner.stop(set.job);
  return setAt(home, set.id);
}

/** Deletes a set so that it can be restored; what is under way of it is stopped. */
export async function deleteSet(home: SetRunNeeds, set: StoredSet): Promise<void> {
  await stopSet(home, set);
  home.sets.hide(set.id, Date.now());
}

/** Whether answers of a set are being made. */
export function isUnderWay({ jobs }: HasJobs, { job }: StoredSet): boolean {
  const state = job === null ? undefined : jobs.byId(job)?.state;
  return state === "running" || state === "waiting";
}

function start(home: SetRunNeeds, set: StoredSet, steps: readonly SetStep[], mostPrice: number | null): void {
  const now = Date.now();
  const known = set.job === null ? undefined : home.jobs.byId(set.job);
  const job = known ?? home.jobs.add(set.app, { kind: "set", set: set.id }, mostPrice, now);
  home.sets.setJob(set.id, job.id, now);
  home.steps.append(job.id, steps);
  home.runner.start(job.id);
}

/** Asks what is left of a set. */
export async function runSet(
  home: SetRunNeeds,
  { id: job, app: appId, mostPrice }: StoredJob,
  signal: AbortSignal,
): Promise<"done"> {
  const set = home.sets.byId(workOf(home, job).set) ?? refuse("not-found", "The set was deleted.");
  const app = home.apps.byId(appId) ?? refuse("not-found", "The app was deleted.");
  const [rows, lanes] = [home.sets.rows(set.id), home.sets.lanes(set.id)];
  const quiet = new Quiet();
  let told = 0;
  await doSteps<SetStep>(home, {
    job,
    mostPrice,
    atOnce,
    signal,
    tell() {
      if (performance.now() - told < pause) return;
      told = performance.now();
      home.changes.tell(set.id);
      home.changes.tellJobs();
    },
    async work({ work: { row, lane: place } }, stopped) {
      const [said, lane] = [rows[row], lanes[place]];
      if (!said || !lane) refuse("internal", "The set has no such answer.");
      // a kill may have come between the answer and the end of its step
      const known = home.sets.answered(set.id, { row, lane: place });
      if (known) return { price: known.reduce((sum, { figures }) => sum + inMillionths(figures.price), 0) };
      const id = newId("ans");
      const candidate = candidateOf(home, lane);
      const of: TrialOf = { id, purpose: "comparison", app, candidate, seed };
      const { replies, price } = await answered(home, of, { said, now: set.createdAt, quiet }, stopped);
      stopped.throwIfAborted();
      home.sets.addAnswer(set.id, { id, row, lane: place }, replies);
      return { price };
    },
  });
  home.changes.tell(set.id);
  return "done";
}

/** Tells those who look that a set was stopped, or failed. */
export function endSet(home: HasSets & HasJobs & HasChanges, job: string): void {
  const work = home.jobs.byId(job)?.work;
  if (work?.kind === "set") home.changes.tell(work.set);
}

/** Says a row to a lane, one message after another, until one is not answered; gives what was answered, and the price in millionths. */
async function answered(
  home: SetRunNeeds,
  of: TrialOf,
  { said, now, quiet }: { said: Row; now: number; quiet: Quiet },
  signal: AbortSignal,
): Promise<{ replies: SetReply[]; price: number }> {
  const line = new TrialLine();
  const replies: SetReply[] = [];
  let price = 0;
  for (const message of said) {
    price += await sumUpTrial(home, of, line, signal);
    const { provider } = of.candidate.content;
    for (;;) {
      await quiet.over(provider, signal);
      line.ask(message, now);
      const came = await answer(home, of, { line, now, given: {} }, signal);
      signal.throwIfAborted();
      const { figures, making, alone } = came;
      price += inMillionths(figures.price);
      if (quiet.hears(provider, figures.problem)) {
        line.takeBack();
        continue;
      }
      replies.push({ text: textOf(came), figures: { ...figures, ...alone }, making });
      break;
    }
    if (replies.at(-1)?.figures.problem) break;
  }
  return { replies, price };
}

/** Milliseconds that a provider is left alone that does not say for how long, doubled with each time, and the longest. */
const firstRest = 1000;
const longestRest = 60_000;
/** How often in a row a provider is left alone before what it does not answer has failed. */
const mostRests = 6;

/** Which providers are left alone for a while, since they said so: one answer that hears it holds up all. */
class Quiet {
  private readonly rests = new Map<string, { until: number; inRow: number }>();

  /** Waits until a provider may be asked again. @throws what `signal` is aborted with */
  async over(provider: string, signal: AbortSignal): Promise<void> {
    for (let left = this.left(provider); left > 0; left = this.left(provider))
      await rest(left, undefined, { signal }).catch(() => signal.throwIfAborted());
  }

  /**
   * Hears how a call of a provider ended.
   * @returns whether it is to be made once more, after a rest
   */
  hears(provider: string, problem: Problem | undefined): boolean {
    if (!isForLess(problem)) {
      this.rests.delete(provider);
      return false;
    }
    const { until, inRow } = this.rests.get(provider) ?? { until: 0, inRow: 0 };
    const now = performance.now();
    // calls that went out together hear the same
    if (now < until) return true;
    if (inRow >= mostRests) return false;
    const wanted = problem.retryAfter === undefined ? firstRest * 2 ** inRow : problem.retryAfter * 1000;
    this.rests.set(provider, { until: now + Math.min(wanted, longestRest), inRow: inRow + 1 });
    return true;
  }

  private left(provider: string): number {
    return (this.rests.get(provider)?.until ?? 0) - performance.now();
  }
}

/** Whether a provider asks for fewer calls; one that merely fails does not. */
function isForLess(problem: Problem | undefined): problem is Problem {
  return problem?.kind === "rate-limited" || (problem?.kind === "overloaded" && problem.retryAfter !== undefined);
}

function inMillionths(price = 0): number {
  return Math.round(price * 1_000_000);
}

function candidateOf({ contents }: SetRunNeeds, { contentHash: hash, revision: number }: SetLane): Revision {
  return { number, hash, content: contents.read(hash) };
}

function workOf({ jobs }: HasJobs, id: string): Extract<Work, { kind: "set" }> {
  const work = jobs.byId(id)?.work;
  if (work?.kind !== "set") refuse("not-found", `There is no job ${id}.`);
  return work;
}
