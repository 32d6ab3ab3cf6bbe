import { CallFailed, Client } from "@/contract/client";
import { type Comparison, comparisons, type Lane, type LaneTurn } from "@/contract/comparisons";
import { type Fact, factsIn } from "@/core/comparing/facts/facts";
import { fewestLanes, mostLanes } from "@/core/comparing/lane";
import { statedIn } from "@/core/comparing/stated";
import { textOf } from "@/core/conversation/pieces";
import { isUnderWay } from "@/core/reply/reply";
import { candidatesOf, Unfit } from "./candidates";
import type { Paper } from "./paper";
import { tableOf } from "./table";

/** What was asked for on the command line. */
export interface CompareWishes {
  at: string;
  /** Candidates beside the live revision. */
  with?: string[];
  name?: string;
  json?: boolean;
}

const exit = { answered: 0, failed: 1, wrong: 2, stopped: 130 };
/** Milliseconds between two looks at lanes that are under way. */
const pause = 300;

/** Asks several candidates of an app the same, and prints what each said and what they do not all state. @returns the exit code */
export async function compare(slug: string, question: string, wishes: CompareWishes, paper: Paper): Promise<number> {
  const client = new Client(wishes.at.replace(/\/$/, ""));
  let id: string | undefined;
  let isStopped = false;
  const stop = () => {
    isStopped = true;
    const untold = (error: Error) => paper.warn(`It could not be stopped: ${error.message}`);
    if (id !== undefined) client.send(comparisons.stop, { id }).catch(untold);
  };
  process.once("SIGINT", stop);
  try {
    const lanes = await lanesFor(client, slug, ["live", ...(wishes.with ?? ["draft"])]);
    if (isStopped) return exit.stopped;
    const named = wishes.name ? { name: wishes.name } : {};
    const body = { lanes: lanes.map(({ name: _name, ...wanted }) => wanted), message: question, ...named };
    id = (await client.send(comparisons.make, { slug, body })).id;
    // it may have been stopped while that was answered
    if (isStopped) stop();
    paper.wait();
    const ended = await whenEnded(client, id);
    const names = lanes.map(({ name }) => name);
    if (wishes.json) paper.say(`${JSON.stringify(answerOf(ended, names))}\n`);
    else print(ended, names, paper);
    if (isStopped) return exit.stopped;
    return ended.lanes.every((lane) => isAnswered(lane.turns.at(-1))) ? exit.answered : exit.failed;
  } catch (error) {
    if (error instanceof Unfit) {
      paper.warn(error.message);
      return exit.wrong;
    }
    if (!(error instanceof CallFailed)) throw error;
    const { kind, detail, advice } = error.problem;
    paper.warn(
      kind === "away"
        ? `Nothing answers at ${wishes.at}. Start Unruly Finch, or say where it is with --at.`
        : `${detail} ${advice}`,
    );
    return kind === "away" || kind === "internal" ? exit.failed : exit.wrong;
  } finally {
    process.off("SIGINT", stop);
  }
}

async function lanesFor(client: Client, slug: string, names: readonly string[]) {
  if (names.length < fewestLanes || names.length > mostLanes)
    throw new Unfit(`A comparison has two to ${mostLanes} candidates, the live revision among them.`);
  return candidatesOf(client, slug, names);
}

async function whenEnded(client: Client, id: string): Promise<Comparison> {
  for (;;) {
    const comparison = await client.send(comparisons.read, { id });
    if (comparison.lanes.every((lane) => hasEnded(lane.turns.at(-1)))) return comparison;
    await new Promise((resolve) => setTimeout(resolve, pause));
  }
}

function hasEnded(turn: LaneTurn | undefined): boolean {
  return turn !== undefined && (turn.problem !== null || (turn.reply !== null && !isUnderWay(turn.reply.state)));
}

function isAnswered(turn: LaneTurn | undefined): boolean {
  return turn?.reply != null && turn.reply.state !== "failed" && turn.reply.state !== "interrupted";
}

/** What is known of a lane's reply, as members. */
function laneFigures({ content, turns }: Lane, name: string) {
  const turn = turns.at(-1);
  const { reply, readings, problem } = turn ?? {};
  const usage = reply?.facts.usage;
  return {
    lane: name,
    provider: reply?.facts.provider ?? content.provider,
    model: reply?.facts.model ?? content.model,
    state: reply?.state ?? "not asked",
    text: reply ? textOf(reply) : "",
    problem: problem?.detail ?? reply?.facts.problem?.detail,
    firstTextMs: readings?.firstTextMs ?? null,
    ms: readings?.ms ?? null,
    tokensPerSecond: readings?.speed ?? null,
    input: usage?.input ?? null,
    output: usage?.output ?? null,
    price: usage && !usage.isUnpriced ? usage.price : null,
    currency: usage?.currency ?? null,
  };
}

function factsOf({ lanes, turns }: Comparison) {
  const said = lanes.map((lane): Fact[] | undefined => {
    const reply = lane.turns.at(-1)?.reply;
    const text = reply ? textOf(reply) : "";
    return text.trim() === "" ? undefined : factsIn(text);
  });
  return statedIn(said, factsIn(turns.at(-1)?.message ?? ""));
}

function answerOf(comparison: Comparison, names: readonly string[]) {
  const { shared, differing } = factsOf(comparison);
  return {
    comparison: comparison.id,
    message: comparison.turns.at(-1)?.message ?? "",
    lanes: comparison.lanes.map((lane, at) => laneFigures(lane, names[at] ?? "")),
    facts: {
      shared: shared.map(({ key }) => key),
      differing: differing.map(({ key, places }) => ({
        fact: key,
        lanes: names.filter((_, at) => (places[at]?.length ?? 0) > 0),
      })),
    },
  };
}

/** Prints the words of each lane, a table of what they took, and the facts that not all state. */
function print(comparison: Comparison, names: readonly string[], paper: Paper): void {
  const figures = comparison.lanes.map((lane, at) => laneFigures(lane, names[at] ?? ""));
  for (const { lane, text, problem, state } of figures)
    paper.say(`${lane}\n${indented(text.trim() || problem || `nothing (${state})`)}\n\n`);
  const seconds = (ms: number | null) => (ms === null ? "" : `${(ms / 1000).toFixed(2)} s`);
  const rows = [
    ["", "ended", "to text", "whole", "a second", "in", "out", "price"],
    ...figures.map((each) => [
      each.lane,
      each.state,
      seconds(each.firstTextMs),
      seconds(each.ms),
      each.tokensPerSecond === null ? "" : String(Math.round(each.tokensPerSecond)),
      String(each.input ?? ""),
      String(each.output ?? ""),
      each.price === null ? "" : `${each.price.toFixed(4)} ${each.currency}`,
    ]),
  ];
  paper.say(`${tableOf(rows)}\n`);
  const { shared, differing } = factsOf(comparison);
  if (differing.length === 0) paper.say(`\nNo fact differs${shared.length > 0 ? "" : ", since none is stated"}.\n`);
  else
    paper.say(
      `\n${tableOf([["fact", ...names], ...differing.map(({ key, places }) => [key, ...names.map((_, at) => ((places[at]?.length ?? 0) > 0 ? "states it" : "–"))])])}\n`,
    );
  paper.note(`Saved as ${comparison.id}: open it in Compare.`);
}

function indented(text: string): string {
  return text.replace(/^/gm, "  ");
}
