import { mostTrials } from "@/core/checks/chance";
import { parseScript, printCheck } from "@/core/checks/parse";
import { type Check, expectedIn, type FiledTurns } from "@/core/checks/script";
import type { LaneBase } from "@/core/comparing/lane";
import type { Content } from "@/core/revision/content";
import { schemas } from "@/core/schema/schema";
import { sound } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { Traffic } from "../exchange/traffic";
import { refuse } from "../ground/refusal";
import type { HasProviders } from "../providers/provider-store";
import type { AnswersFrom } from "../recordings/run-traffic";
import type { HasRuns, RunCheck, RunColumn, RunOrigin, StoredRun } from "./run-store";
import type { HasScripts } from "./script-store";
import { hashOfText, scriptsOf } from "./scripts";
import { storedTurns } from "./trial";

/** What of the process is used here. */
export type PlanNeeds = HasScripts & HasRuns & HasApps & HasContents & HasProviders & HasConversations & HasMessages;

/** A candidate that a run is to have. */
export interface WantedColumn {
  name: string;
  base: LaneBase;
  content: Content;
}

/** A run that is wanted. */
export interface WantedRun {
  /** The names of checks; undefined for all. */
  only?: readonly string[];
  /** A script by its name; undefined for all. */
  script?: string;
  /** Scripts that are run instead of those of the app. */
  scripts?: readonly { name: string; text: string }[];
  columns: readonly WantedColumn[];
  trials: number;
  /** Of the first trial, less one. */
  seed: number;
  against: number;
  /** Whether trials are taken from earlier runs where nothing has changed. */
  leavesOutUnchanged: boolean;
  origin: RunOrigin;
  /** Where its answers come from: providers, where nothing is said. */
  answers?: AnswersFrom;
  pace?: Traffic["pace"];
  records?: boolean;
}

/** A run that can be made: all of it was read. */
export interface Plan {
  columns: Omit<RunColumn, "place">[];
  checks: (Omit<RunCheck, "place"> & { text: string; check: Check })[];
}

/** Trials that a run may have. */
const mostInAll = 20_000;

/**
 * What a run would be made of.
 * @throws {Refusal} `bad-request` where anything in the scripts can't be read: nothing is run by halves
 */
export function planOf(home: PlanNeeds, app: StoredApp, wanted: WantedRun): Plan {
  const { only, columns, trials, against } = wanted;
  const checks = checksOf(home, app, wanted).filter(({ name }) => !only || only.includes(name));
  const unknown = only?.find((name) => !checks.some((check) => check.name === name));
  if (unknown !== undefined) refuse("not-found", `${app.name} has no check "${unknown}".`);
  if (checks.length === 0)
    refuse("bad-request", `${app.name} has no checks.`, {
      advice: "Write one in Checks, or make one from a conversation.",
    });
  if (!columns[against]) refuse("bad-request", "What the others are held against is no column.");
  if (trials > mostTrials) refuse("bad-request", `A check has up to ${mostTrials} trials.`);
  if (checks.length * columns.length * trials > mostInAll)
    refuse("bad-request", `That is more than ${mostInAll} trials.`, {
      advice: "Choose fewer checks, columns or trials.",
    });
  return {
    checks,
    columns: columns.map(({ name, base, content }) => {
      chosenFor(home, content);
      const contentHash = home.contents.keep(sound(content), Date.now());
      return { name, base, revision: revisionOf(home, app, base), contentHash };
    }),
  };
}

/** The number of the revision that a base is now; the draft becomes one only once it is sent. */
function revisionOf({ apps }: HasApps, app: StoredApp, base: LaneBase): number {
  if (base === "live") return app.liveRevision;
  if (base === "draft") return apps.latest(app.id).number;
  return apps.revision(app.id, base)?.number ?? refuse("not-found", `${app.name} has no revision ${base}.`);
}

/** The checks of an app's scripts. @throws {Refusal} where a line can't be read */
function checksOf(
  home: PlanNeeds,
  app: StoredApp,
  { script: only, scripts: given }: Pick<WantedRun, "script" | "scripts">,
): Plan["checks"] {
  const own = given ? { scripts: given, problem: null } : scriptsOf(home, app);
  const { scripts, problem } = own;
  if (problem) refuse(problem.kind, problem.detail, { advice: problem.advice });
  if (only !== undefined && !scripts.some(({ name }) => name === only))
    refuse("not-found", `${app.name} has no script ${only}.`);
  const read = scripts.map(({ name, text }) => ({ name, ...parseScript(text) }));
  const faults = read.flatMap(({ name, faults }) => faults.map((fault) => ({ script: name, ...fault })));
  const filed = read.flatMap(({ script }) => script.filed);
  const chosen = read.filter(({ name }) => only === undefined || name === only);
  const names = new Set<string>();
  for (const {
    name: script,
    script: { checks },
  } of chosen)
    for (const check of checks) {
      if (names.has(check.name))
        faults.push({
          script,
          line: check.line,
          why: `another script has a check "${check.name}" too`,
          advice: "Give one of them another name.",
        });
      names.add(check.name);
      faults.push(...faultsOfTurns(home, app, script, check, filed), ...faultsOfSchemas(script, check));
    }
  const [first] = faults;
  if (first) {
    const told = faults.slice(0, 20).map(({ script, line, why }) => `${script}, line ${line}: ${why}.`);
    refuse(
      "bad-request",
      `${faults.length === 1 ? "A line" : `${faults.length} lines`} can't be read. ${told.join(" ")}`,
      {
        advice: first.advice,
      },
    );
  }
  return chosen.flatMap(({ name: script, script: { checks } }) =>
    checks.map((check) => {
      const text = printCheck(check, filed);
      const lines = check.lines.map(({ line }) => line);
      return { script, name: check.name, lines, text, textHash: hashOfText(text), check };
    }),
  );
}

/** Turns that a check wants before it, and that are not there. */
function faultsOfTurns(
  home: PlanNeeds,
  app: StoredApp,
  script: string,
  { steps }: Check,
  filed: readonly FiledTurns[],
) {
  return steps.flatMap((step) => {
    if (step.kind !== "after") return [];
    const { from, line, turns: wanted } = step;
    const turns =
      from.kind === "filed" ? filed.find(({ name }) => name === from.name)?.turns : storedTurns(home, app.id, from.id);
    const name = from.kind === "filed" ? from.name : `conversation ${from.id}`;
    if (!turns)
      return [
        { script, line, why: `there are no turns ${name}`, advice: "Write them in a script: turns  their name." },
      ];
    if (wanted !== null && turns.length < wanted)
      return [
        { script, line, why: `${name} has ${turns.length} turns`, advice: "Ask for fewer, or write more of them." },
      ];
    return [];
  });
}

/** Schemas that look like some, and can't be compiled. */
function faultsOfSchemas(script: string, check: Check) {
  return expectedIn(check).flatMap(({ line, expectation }) => {
    if (expectation.kind !== "fits") return [];
    try {
      schemas.misfitOf(expectation.schema as object, null);
      return [];
    } catch (error) {
      const why = `this is no JSON Schema: ${(error as Error).message}`;
      return [{ script, line, why, advice: "See the JSON Schema of 2020-12." }];
    }
  });
}

/** A trial that is to be made: where it stands in its run. */
export interface TrialStep {
  check: number;
  column: number;
  trial: number;
}

/**
 * The trials of a run, in the order in which they are made: all columns of a check side by side, so that providers
 * with many places are not kept waiting by those with few.
 * @param from the number of the first trial
 */
export function trialSteps(checks: readonly number[], columns: number, from: number, trials: number): TrialStep[] {
  const steps: TrialStep[] = [];
  for (let trial = from; trial < from + trials; trial++)
    for (const check of checks) for (let column = 0; column < columns; column++) steps.push({ check, column, trial });
  return steps;
}

/** The run of an id. @throws {Refusal} `not-found` */
export function runAt({ runs }: HasRuns, id: string): StoredRun {
  return runs.byId(id) ?? refuse("not-found", `There is no run ${id}.`);
}

/** What a run would cost, in millionths: by what its trials took before, or else by what they say. */
export function priceAhead(home: PlanNeeds, app: StoredApp, { checks, columns }: Plan, trials: number): number | null {
  let sum = 0;
  for (const column of columns) {
    const content = home.contents.read(column.contentHash);
    const { model } = chosenFor(home, content);
    if (model.price.isUnset) return null;
    for (const { textHash, check } of checks) {
      const known = home.runs.usualPrice(app.id, textHash, column.contentHash);
      sum += (known ?? estimated(check, content, model.price)) * trials;
    }
  }
  return Math.round(sum);
}

/** Letters of a token, and tokens of a reply, where nothing is known of them. */
const lettersOfToken = 4;
const usualReply = 120;

function estimated({ steps }: Check, content: Content, price: { input: number; output: number }): number {
  let carried = content.prompt.length / lettersOfToken;
  let sum = 0;
  for (const step of steps) {
    if (step.kind === "turn") carried += (step.turn.visitor.length + step.turn.app.length) / lettersOfToken;
    if (step.kind === "after") carried += (step.turns ?? 10) * usualReply;
    if (step.kind !== "ask") continue;
    carried += step.message.length / lettersOfToken;
    const output = Math.min(usualReply, content.settings.maxOutput ?? usualReply);
    sum += carried * price.input + output * price.output;
    carried += output;
  }
  return sum;
}
