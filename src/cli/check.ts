import { readFileSync, writeFileSync } from "node:fs";
import { basename } from "node:path";
import { apps } from "@/contract/apps";
import { checks, type Run } from "@/contract/checks";
import { CallFailed, Client } from "@/contract/client";
import { recordings } from "@/contract/recordings";
import { secrets } from "@/contract/secrets";
import { type Alone, NotStarted, startAlone } from "./alone";
import { candidatesOf, Unfit } from "./candidates";
import { junitOf } from "./junit";
import type { Paper } from "./paper";
import { provesWhat, reportOf, summaryOf } from "./report";
import { whenRead } from "./sources";
import { tableOf } from "./table";
import { type ToldCell, toldOf } from "./told";

/** What was asked for on the command line. */
export interface CheckWishes {
  at: string;
  /** Candidates beside the live revision. */
  with?: string[];
  /** Candidates, and none beside them. */
  on?: string[];
  file?: string[];
  only?: string[];
  trials: number;
  seed: number;
  json?: boolean;
  junit?: string;
  /** Files for a page of its own, and for one line. */
  report?: string;
  line?: string;
  /** A bundle that is run alone. */
  app?: string;
  /** A file of recordings, which are played instead of calling anybody. */
  recordings?: string;
  /** Whether those are played that the app has. */
  played?: boolean;
  /** Whether what is played takes as long as it took. */
  asRecorded?: boolean;
  /** Whether what providers answer is recorded. */
  record?: boolean;
  /** Variables that the tools of the bundle may carry in their headers. */
  secret?: string[];
}

const exit = { held: 0, broke: 1, notRun: 2, stopped: 130 };
/** Milliseconds between two looks at a run that is under way. */
const pause = 250;
/** The share of trials that may be silent. */
const mostSilent = 0.1;

/**
 * Runs the checks of an app, and prints how they came out.
 * @param app its address; undefined where it is a bundle, which is run alone, in a scratch folder
 * @returns the exit code
 */
export async function check(app: string | undefined, wishes: CheckWishes, paper: Paper): Promise<number> {
  if (wishes.recordings !== undefined && wishes.app === undefined)
    return wrong(
      paper,
      "A file of recordings is played to a bundle: --app <file>. Those that an app has are with --played.",
    );
  if (wishes.app === undefined)
    return app === undefined ? wrong(paper, "Name an app, or a bundle: --app <file>.") : checked(app, wishes, paper);
  if (app !== undefined) return wrong(paper, "Name an app or a bundle, not both.");
  if (wishes.record)
    return wrong(paper, "What is recorded of a bundle would be gone with it: make an app of it, and record that.");
  let alone: Alone | undefined;
  try {
    const text = textIn(wishes.app);
    paper.progress("starting a server of its own");
    alone = await startAlone();
    const client = new Client(alone.address);
    const { slug, draft } = await client.send(apps.fromBundle, { body: { text } });
    for (const name of wishes.secret ?? []) await client.send(secrets.give, { slug, name, body: { variable: name } });
    if (wishes.recordings !== undefined)
      await client.send(recordings.put, { slug, body: { text: textIn(wishes.recordings) } });
    await whenRead(client, slug, draft.sources?.documents.map(({ source }) => ({ id: source })) ?? [], paper);
    const played = wishes.recordings !== undefined || wishes.played;
    return await checked(slug, { ...wishes, played, at: alone.address }, paper);
  } catch (error) {
    if (error instanceof CallFailed) return wrong(paper, `${error.problem.detail} ${error.problem.advice}`);
    if (error instanceof Unfit || error instanceof NotStarted) return wrong(paper, error.message);
    throw error;
  } finally {
    await alone?.end();
  }
}

function wrong(paper: Paper, why: string): number {
  paper.warn(why);
  return exit.notRun;
}

/**
 * Runs the checks of an app, with what its providers answer recorded, and writes all that is recorded of it to a file.
 * @returns the exit code: that of the checks, which may break and are recorded all the same
 */
export async function record(app: string, wishes: CheckWishes & { to: string }, paper: Paper): Promise<number> {
  const code = await checked(app, { ...wishes, record: true }, paper);
  if (code === exit.stopped) return code;
  const client = new Client(wishes.at.replace(/\/$/, ""));
  try {
    writeFileSync(wishes.to, await client.text(recordings.file, { slug: app }));
  } catch (error) {
    if (error instanceof CallFailed) return wrong(paper, `${error.problem.detail} ${error.problem.advice}`);
    return wrong(paper, `${wishes.to} can't be written (${(error as NodeJS.ErrnoException).code}).`);
  }
  paper.note(`What is recorded stands in ${wishes.to}.`);
  return code;
}

async function checked(slug: string, wishes: CheckWishes, paper: Paper): Promise<number> {
  const client = new Client(wishes.at.replace(/\/$/, ""));
  let id: string | undefined;
  let isStopped = false;
  const stop = () => {
    isStopped = true;
    const untold = (error: Error) => paper.warn(`It could not be stopped: ${error.message}`);
    if (id !== undefined) client.send(checks.stop, { id }).catch(untold);
  };
  process.once("SIGINT", stop);
  try {
    const columns = await candidatesOf(client, slug, wishes.on ?? ["live", ...(wishes.with ?? ["draft"])]);
    if (isStopped) return exit.stopped;
    const scripts = wishes.file?.map((path) => ({ name: basename(path, ".checks"), text: textIn(path) }));
    const { only, trials, seed, played, asRecorded, record: records } = wishes;
    const answers = played ? ("recorded" as const) : ("called" as const);
    const pace = asRecorded ? ("as-recorded" as const) : ("at-once" as const);
    const run = await client.send(checks.run, {
      slug,
      body: { columns, trials, seed, origin: "terminal", only, scripts, answers, pace, records },
    });
    id = run.id;
    // it may have been stopped while that was answered
    if (isStopped) stop();
    const ended = await whenEnded(client, run.id, paper);
    const told = toldOf(ended);
    if (wishes.json) paper.say(`${JSON.stringify(answerOf(ended, told))}\n`);
    else print(ended, told, paper);
    if (wishes.junit) writeFileSync(wishes.junit, junitOf(ended, told));
    if (wishes.report) writeFileSync(wishes.report, reportOf(ended, told));
    if (wishes.line) writeFileSync(wishes.line, `${summaryOf(ended, told)}\n`);
    return isStopped ? exit.stopped : exitCode(ended, told, paper);
  } catch (error) {
    if (!(error instanceof CallFailed) && !(error instanceof Unfit)) throw error;
    if (error instanceof Unfit) paper.warn(error.message);
    else if (error.problem.kind === "away")
      paper.warn(`Nothing answers at ${wishes.at}. Start Unruly Finch, or say where it is with --at.`);
    else paper.warn(`${error.problem.detail} ${error.problem.advice}`);
    return exit.notRun;
  } finally {
    process.off("SIGINT", stop);
  }
}

function textIn(path: string): string {
  try {
    return readFileSync(path, "utf8");
  } catch (error) {
    throw new Unfit(`${path} can't be read (${(error as NodeJS.ErrnoException).code}).`);
  }
}

async function whenEnded(client: Client, id: string, paper: Paper): Promise<Run> {
  for (;;) {
    const run = await client.send(checks.read, { id });
    if (run.endedAt !== null && run.state !== "running") {
      paper.progress("");
      return run;
    }
    paper.progress(`${run.done} of ${run.of} trials, ${run.broke} broke, ${run.silent} silent`);
    await new Promise((resolve) => setTimeout(resolve, pause));
  }
}

function exitCode(run: Run, told: readonly ToldCell[], paper: Paper): number {
  if (run.problem) {
    paper.warn(`${run.problem.detail} ${run.problem.advice}`);
    return exit.notRun;
  }
  if (told.some(({ outcome }) => outcome === "broke")) return exit.broke;
  const isSilent = told.some(({ outcome }) => outcome === "silent") || run.silent > run.done * mostSilent;
  if (!isSilent && run.done === run.of) return exit.held;
  paper.warn(`${run.silent} of ${run.of} trials were silent: that says too little.`);
  return exit.notRun;
}

function answerOf({ id, held, broke, silent, price, currency }: Run, told: readonly ToldCell[]) {
  return {
    run: id,
    held,
    broke,
    silent,
    price,
    currency,
    checks: told.map(({ check, ...each }) => ({ check: check.name, script: check.script, ...each })),
  };
}

/** Prints a table of checks and candidates, and what broke. */
function print(run: Run, told: readonly ToldCell[], paper: Paper): void {
  const rows = run.checks.map((check) => [
    check.name,
    ...told
      .filter((each) => each.check === check)
      .map(({ held, broke, silent, outcome }) => {
        const counts = held + broke === 1 && silent === 0 ? "" : ` (${held} of ${held + broke})`;
        return `${outcome}${counts}${silent > 0 && outcome !== "silent" ? `, ${silent} silent` : ""}`;
      }),
  ]);
  paper.say(`${tableOf([["check", ...run.columns.map(({ name }) => name)], ...rows])}\n`);
  for (const { check, column, misses, outcome } of told) {
    if (outcome === "held") continue;
    paper.say(`\n${check.name}, on ${column}\n`);
    for (const { line, expected, saw } of misses) paper.say(`  ${check.script}:${line}  ${expected}\n      ${saw}\n`);
  }
  const price = run.currency === null ? "" : `, ${run.price.toFixed(4)} ${run.currency}`;
  const played = run.answers === "called" ? "" : ` ${provesWhat}`;
  paper.note(
    `${run.held} of ${run.of} trials held, ${run.broke} broke, ${run.silent} silent${price}. Saved as ${run.id}.${played}`,
  );
}
