import type { Cell, ListedRun, Miss, Run, RunCheck, WholeTrial } from "@/contract/checks";
import { standingTo } from "@/core/checks/chance";
import type { TrialReply } from "@/core/checks/trial";
import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import type { HasRuns, RunCheck as StoredCheck, StoredRun, StoredTrial } from "../checks/run-store";
import { type PlanNeeds, planOf, priceAhead, type WantedRun } from "../checks/runs";
import type { HasScripts } from "../checks/script-store";
import { type HasScriptWatch, scriptsOf } from "../checks/scripts";
import { checkedLast, tallyOf } from "../checks/standing";
import { refuse } from "../ground/refusal";
import type { HasJobs } from "../jobs/job-store";
import type { HasRunner } from "../jobs/runner";
import type { HasProviders } from "../providers/provider-store";

/** What of the process is used here. */
export type ToldRunNeeds = HasRuns & HasApps & HasContents & HasProviders & HasJobs & HasRunner;

/** Runs that are listed at once. */
const mostListed = 30;

/** The scripts of an app; where they stand in a folder, that is watched from here on. */
export function scriptsAnswer(home: HasScripts & HasScriptWatch & HasRuns, app: StoredApp) {
  const scripts = scriptsOf(home, app);
  home.scriptWatch.watch(app, scripts.folder);
  return { ...scripts, schedule: home.runs.schedule(app.id) ?? null };
}

const hour = 60 * 60 * 1000;

/** Has the checks of an app run by themselves, the first time in so many hours; or no more. */
export function setSchedule(home: HasRuns, app: StoredApp, wanted: { every: number; trials: number } | null): void {
  home.runs.setSchedule(app.id, wanted && { ...wanted, nextAt: Date.now() + wanted.every * hour });
}

/** How the draft came out when it was checked last, and whether there is anything to check it by. */
export function draftAnswer(home: HasRuns & HasScripts, app: StoredApp) {
  const { scripts } = scriptsOf(home, app);
  return { checked: checkedLast(home, app.id, app.draftHash) ?? null, hasChecks: scripts.length > 0 };
}

/** What a run would be, and cost. */
export function runAhead(home: PlanNeeds, app: StoredApp, wanted: WantedRun) {
  const plan = planOf(home, app, wanted);
  const price = priceAhead(home, app, plan, wanted.trials);
  const content = home.contents.read(plan.columns[0]?.contentHash ?? "");
  return {
    trials: plan.checks.length * plan.columns.length * wanted.trials,
    price: price === null ? null : price / 1_000_000,
    currency: chosenFor(home, content).model.price.currency,
  };
}

/** The runs of an app, the latest first, with how much of each column held. */
export function listedRuns(
  home: ToldRunNeeds,
  app: StoredApp,
  before: string | undefined,
): { runs: ListedRun[]; hasMore: boolean } {
  const found = home.runs.ofApp(app.id, before, mostListed + 1);
  const runs = found.slice(0, mostListed).map((run): ListedRun => {
    const trials = home.runs.trials(run.id);
    const columns = home.runs.columns(run.id).map(({ place, name, base, revision }) => {
      const { held, of } = tallyOf(trials.filter(({ column }) => column === place));
      return { name, base, revision, held, of };
    });
    return { ...headOf(home, run, trials), checks: home.runs.checks(run.id).length, columns };
  });
  return { runs, hasMore: found.length > mostListed };
}

function headOf({ apps, jobs, runner }: ToldRunNeeds, run: StoredRun, trials: readonly StoredTrial[]) {
  const job = run.job === null ? undefined : jobs.byId(run.job);
  const standing = job && runner.standing(job);
  const count = (outcome: StoredTrial["outcome"]) => trials.filter((trial) => trial.outcome === outcome).length;
  const left = standing ? standing.of - standing.done : 0;
  return {
    id: run.id,
    app: apps.byId(run.app)?.slug ?? "",
    origin: run.origin,
    startedAt: run.startedAt,
    endedAt: run.endedAt,
    state: standing?.state ?? "done",
    problem: standing?.problem ?? null,
    done: trials.length,
    of: trials.length + left,
    held: count("held"),
    broke: count("broke"),
    silent: count("silent"),
    price: trials.reduce((sum, { price }) => sum + price, 0) / 1_000_000,
    currency: trials.find(({ currency }) => currency !== null)?.currency ?? null,
    canResume: left > 0 && (standing?.state === "stopped" || standing?.state === "failed"),
    answers: run.answers,
    records: run.records,
  };
}

/** A run: how each check came out on each candidate, and what broke. */
export function runAnswer(home: ToldRunNeeds, run: StoredRun): Run {
  const { runs, contents } = home;
  const trials = runs.trials(run.id);
  const columns = runs.columns(run.id);
  const byCell = new Map<string, StoredTrial[]>();
  for (const trial of trials) {
    const key = `${trial.check} ${trial.column}`;
    byCell.set(key, [...(byCell.get(key) ?? []), trial]);
  }
  const { trials: count, seed, against } = run;
  return {
    ...headOf(home, run, trials),
    drift: driftOf(home, run, trials),
    trials: count,
    seed,
    against,
    columns: columns.map(({ place, name, base, revision, contentHash: hash }) => ({
      name,
      base,
      revision,
      hash,
      content: contents.read(hash),
      versions: [...new Set(trials.flatMap(({ column, version }) => (column === place && version ? [version] : [])))],
    })),
    checks: runs.checks(run.id).map((check): RunCheck => {
      const { place, script, name, lines, textHash } = check;
      const of = (column: number) => byCell.get(`${place} ${column}`) ?? [];
      const base = of(against);
      const cells = columns.map(({ place: column }) =>
        cellOf(home, of(column), column, column === against ? undefined : base),
      );
      return { place, script, name, lines, text: runs.text(textHash), cells };
    }),
  };
}

/** How the column that the others are held against came out against all that was run on the same content before. */
function driftOf(
  { runs, contents, providers }: ToldRunNeeds,
  run: StoredRun,
  trials: readonly StoredTrial[],
): Run["drift"] {
  const column = runs.columns(run.id).find(({ place }) => place === run.against);
  if (!column) return null;
  const found = runs.checks(run.id).map(({ place, name, textHash }) => {
    const own = trials.filter((trial) => trial.check === place && trial.column === column.place && !trial.takenFrom);
    const before = runs.before(column.contentHash, textHash, run.id);
    return { name, of: before.of, kind: standingTo(before, tallyOf(own)).kind };
  });
  if (found.every(({ of }) => of === 0)) return null;
  const named = (kind: string) => found.filter((each) => each.kind === kind).map(({ name }) => name);
  const { provider: slug, model: name } = contents.read(column.contentHash);
  const provider = providers.bySlug(slug);
  const version = provider && providers.versionOf(provider.id, name);
  return {
    worse: named("worse"),
    perhapsWorse: named("perhaps-worse"),
    version: version
      ? { model: name, version: version.version, since: version.since, before: version.before ?? null }
      : null,
  };
}

function cellOf(
  { runs }: HasRuns,
  trials: readonly StoredTrial[],
  column: number,
  base: readonly StoredTrial[] | undefined,
): Cell {
  return {
    column,
    trials: trials.map(({ id, trial, outcome, outcomes, ms, takenFrom }) => ({
      id,
      trial,
      outcome,
      outcomes,
      ms,
      isTaken: takenFrom !== null,
    })),
    misses: missesOf(runs, trials),
    standing: base ? standingOf(base, trials) : null,
  };
}

function standingOf(base: readonly StoredTrial[], trials: readonly StoredTrial[]): Cell["standing"] {
  const standing = standingTo(tallyOf(base), tallyOf(trials));
  if (standing.kind !== "perhaps-worse") return standing;
  const each = (of: readonly StoredTrial[]) => of.reduce((sum, { price }) => sum + price, 0) / Math.max(of.length, 1);
  const price = standing.more === null ? null : ((each(base) + each(trials)) * standing.more) / 1_000_000;
  return { ...standing, price };
}

/** What did not hold, each line of a check in the first trial in which it did not. */
function missesOf(runs: HasRuns["runs"], trials: readonly StoredTrial[]): Miss[] {
  const misses = new Map<number, Miss>();
  const seen = new Set<string>();
  for (const { id, trial, outcomes } of trials) {
    // one like an earlier one has nothing new to tell
    if (!/[bs]/.test(outcomes) || seen.has(outcomes)) continue;
    seen.add(outcomes);
    const { replies, whole } = runs.result(id);
    const note = (judged: TrialReply["judged"], reply: TrialReply | undefined) => {
      for (const each of judged) {
        const known = misses.get(each.line);
        if (each.outcome === "held" || (known && (known.judged.outcome === "broke" || each.outcome === "silent")))
          continue;
        const { text = "", making = null, figures } = reply ?? {};
        misses.set(each.line, {
          trial: id,
          number: trial,
          text: text.slice(0, longestTold),
          making,
          problem: figures?.problem,
          judged: each,
        });
      }
    };
    for (const reply of replies) note(reply.judged, reply);
    note(whole, replies.at(-1));
  }
  return [...misses.values()].sort((a, b) => a.judged.line - b.judged.line);
}

/** Letters of a reply that are told along with what broke. */
const longestTold = 2_000;

/** A trial with all that was said in it. @throws {Refusal} `not-found` */
export function trialAnswer({ runs }: HasRuns, id: string): WholeTrial {
  const trial = runs.trial(id) ?? refuse("not-found", `There is no trial ${id}.`);
  const check = runs.checks(trial.run).find(({ place }: StoredCheck) => place === trial.check);
  const column = runs.columns(trial.run).find(({ place }) => place === trial.column);
  const { run, trial: number, seed, outcome, ms, price, currency, at } = trial;
  return {
    id,
    run,
    check: check?.name ?? "",
    text: check ? runs.text(check.textHash) : "",
    column: column?.name ?? "",
    trial: number,
    seed,
    outcome,
    ms,
    price: price / 1_000_000,
    currency,
    at,
    ...withoutOutcome(runs.result(id)),
  };
}

function withoutOutcome({ outcome: _outcome, ...result }: ReturnType<HasRuns["runs"]["result"]>) {
  return result;
}
