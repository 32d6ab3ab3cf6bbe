import { standingTo, type Tally } from "@/core/checks/chance";
import type { HasApps, StoredApp } from "../apps/app-store";
import { refuse } from "../ground/refusal";
import type { HasRuns, StoredTrial } from "./run-store";

/** How a content came out when it was checked last. */
export interface Checked {
  run: string;
  /** Epoch milliseconds. */
  at: number;
  held: number;
  of: number;
  /** The names of the checks that were worse than on what it was held against, and perhaps worse. */
  worse: string[];
  perhapsWorse: string[];
  /** The hash of the content that it was held against. */
  against: string;
}

/** Trials that held, of those that were judged. */
export function tallyOf(trials: readonly Pick<StoredTrial, "outcome">[]): Tally {
  const judged = trials.filter(({ outcome }) => outcome !== "silent");
  return { held: judged.filter(({ outcome }) => outcome === "held").length, of: judged.length };
}

/** How a content came out when it was checked last; undefined where it never was. */
export function checkedLast({ runs }: HasRuns, app: string, contentHash: string): Checked | undefined {
  const run = runs.latestOf(app, contentHash);
  const column = run && runs.columns(run.id).find((each) => each.contentHash === contentHash);
  if (!run || !column) return undefined;
  const trials = runs.trials(run.id);
  const own = trials.filter((trial) => trial.column === column.place);
  const kinds = runs.checks(run.id).map(({ place, name }) => {
    const of = (place_: number) => tallyOf(trials.filter(({ check, column: at }) => check === place && at === place_));
    return { name, kind: standingTo(of(run.against), of(column.place)).kind };
  });
  const named = (kind: string) => kinds.filter((each) => each.kind === kind).map(({ name }) => name);
  const { held, of } = tallyOf(own);
  const against = runs.columns(run.id).find(({ place }) => place === run.against)?.contentHash ?? "";
  const told = { worse: named("worse"), perhapsWorse: named("perhaps-worse") };
  return { run: run.id, at: run.startedAt, held, of, ...told, against };
}

/** Has it asked about before a content is made live of which checks are worse. @throws {Refusal} `worse` */
export function askBeforeLive(home: HasRuns & HasApps, app: StoredApp, contentHash: string): void {
  const checked = checkedLast(home, app.id, contentHash);
  const live = home.apps.revision(app.id, app.liveRevision)?.hash;
  const { worse = [], against } = checked ?? {};
  // what was live then may be live no more
  if (worse.length === 0 || against !== live) return;
  const named = worse.slice(0, 5).map((name) => `"${name}"`);
  const more = worse.length > 5 ? ` and ${worse.length - 5} more` : "";
  refuse(
    "worse",
    `${worse.length === 1 ? "A check is" : `${worse.length} checks are`} worse: ${named.join(", ")}${more}.`,
  );
}
