import type { ListedSet, MessageSet, SetLane } from "@/contract/sets";
import { type SetAhead, type SetAnswer, type SetReply, textOfAnswer } from "@/core/comparing/sets/answer";
import type { Differing, ToTellApart } from "@/core/comparing/sets/differing";
import { longestSaid, mostSaid, type Row } from "@/core/comparing/sets/rows";
import { withTyped } from "@/core/context/forecast";
import { textOf } from "@/core/conversation/pieces";
import { csvCell } from "@/core/history/csv";
import type { Content } from "@/core/revision/content";
import { filledSources } from "@/core/sources/sources";
import { dearestOf } from "@/core/tokens/price";
import { usualRounds } from "@/core/tools/tool";
import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor, fallbacksOf } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import type { HasReader } from "../archive/threads";
import type { HasSets, SetLane as StoredLane, StoredSet } from "../comparing/set-store";
import { setAt } from "../comparing/sets";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import { isRefusal, refuse } from "../ground/refusal";
import type { HasJobs } from "../jobs/job-store";
import type { HasRunner } from "../jobs/runner";
import type { HasProviders } from "../providers/provider-store";
import { forecastOn, type ToldLineNeeds } from "./conversations";

/** What of the process is used here. */
export type ToldSetNeeds = HasSets & HasApps & HasContents & HasProviders & HasJobs & HasRunner;

/** The sets of an app, as they are listed. */
export function listedSets(home: ToldSetNeeds, app: StoredApp): { sets: ListedSet[] } {
  return {
    sets: home.sets.ofApp(app.id).map((set) => {
      const { id, name, opening, rows, lanes, updatedAt } = set;
      return { id, name, opening, rows, lanes, state: standingOf(home, set)?.state ?? "done", updatedAt };
    }),
  };
}

/** A set with what was answered. @param after the `seq` of the last answer that is known; 0 for all */
export function setAnswer(home: ToldSetNeeds, set: StoredSet, after = 0): MessageSet {
  const { id, app: appId, name, hidesNames, seenEarly, createdAt } = set;
  const app = home.apps.byId(appId) ?? refuse("not-found", "The app was deleted.");
  const [rows, lanes] = [home.sets.rows(id), home.sets.lanes(id)];
  const job = standingOf(home, set);
  const [first] = lanes;
  const { done, of } = job ?? { done: rows.length * lanes.length, of: rows.length * lanes.length };
  return {
    id,
    app: app.slug,
    name,
    rows: rows.map((row) => [...row]),
    lanes: lanes.map((lane) => laneAnswer(home, app, lane)),
    answers: home.sets.answers(id, after),
    marks: home.sets.marks(id),
    hidesNames,
    unmarked: home.sets.unmarked(id),
    seenEarly,
    state: job?.state ?? "done",
    problem: job?.problem ?? null,
    done,
    of,
    price: (job?.price ?? 0) / 1_000_000,
    mostPrice: job?.mostPrice == null ? null : job.mostPrice / 1_000_000,
    currency: currencyOf(home, first && home.contents.read(first.contentHash)),
    canResume: (job?.state === "stopped" || job?.state === "failed") && done < of,
    createdAt,
  };
}

/** A set as it stands, without what was answered. */
export function setStanding(home: ToldSetNeeds, set: StoredSet): MessageSet {
  return setAnswer(home, set, Number.MAX_SAFE_INTEGER);
}

function standingOf({ jobs, runner }: HasJobs & HasRunner, { job }: StoredSet) {
  const stored = job === null ? undefined : jobs.byId(job);
  return stored && runner.standing(stored);
}

function laneAnswer({ apps, contents }: ToldSetNeeds, app: StoredApp, lane: StoredLane): SetLane {
  const { base, revision, contentHash: hash } = lane;
  const was = apps.revision(app.id, revision);
  return {
    base,
    revision,
    hash,
    content: contents.read(hash),
    changedFrom: was && was.hash !== hash ? was.content : null,
  };
}

/** The currency of a content's model; that of the bench where it is gone. */
function currencyOf(home: HasProviders, content: Content | undefined): string {
  if (!content) return usualCurrency;
  try {
    return chosenFor(home, content).model.price.currency;
  } catch (error) {
    if (!isRefusal(error)) throw error;
    return usualCurrency;
  }
}

const usualCurrency = "EUR";

/** Tokens of a reply where nothing is known of it. */
const usualReply = 120;

/** What a set would cost in each of its lanes. */
export function setAhead(
  home: ToldLineNeeds & HasProviders,
  { lanes, rows }: { lanes: readonly { content: Content }[]; rows: readonly Row[] },
): { lanes: SetAhead[] } {
  return {
    lanes: lanes.map(({ content }) => {
      try {
        return laneAhead(home, content, rows);
      } catch (error) {
        if (!isRefusal(error)) throw error;
        return { tokens: 0, usual: null, most: null, currency: usualCurrency, problem: error.problem };
      }
    }),
  };
}

/**
 * What rows would cost on a content. At most: as if all that was said before were carried, each reply were as long as it
 * may be, every round of calls were made, and data had to be mended.
 */
function laneAhead(home: ToldLineNeeds & HasProviders, content: Content, rows: readonly Row[]): SetAhead {
  const ahead = forecastOn(home, content, { conversation: "", tip: null });
  const speakers = [chosenFor(home, content), ...fallbacksOf(home, content)].map(({ model }) => model);
  const prices = speakers.map(({ price }) => price);
  const window = Math.max(...speakers.map((model) => model.window));
  const { maxOutput } = content.settings;
  const goes = ((content.tools?.length ?? 0) > 0 ? (content.rounds ?? usualRounds) + 1 : 1) * (content.schema ? 2 : 1);
  const beside = passagesIn(content);
  let [tokens, usual, most] = [0, 0, 0];
  let problem: SetAhead["problem"] = null;
  for (const row of rows)
    for (const [at] of row.entries()) {
      const typed = withTyped(ahead, row.slice(0, at + 1).join("\n"));
      problem ??= typed.problem ?? null;
      const reply = Math.min(usualReply, maxOutput ?? usualReply);
      const input = typed.tokens + beside + at * reply;
      tokens += input;
      usual += dearestOf({ input, output: reply }, prices.slice(0, 1)) ?? Number.NaN;
      const longest = Math.min(typed.tokens + typed.margin + beside + at * (maxOutput ?? 0), window);
      most += (dearestOf({ input: longest, output: maxOutput ?? 0 }, prices) ?? Number.NaN) * goes;
    }
  const isBounded = maxOutput !== undefined && !callsBeside(content);
  return {
    tokens: Math.round(tokens),
    usual: Number.isNaN(usual) ? null : usual,
    most: isBounded && !Number.isNaN(most) ? most : null,
    currency: prices[0]?.currency ?? usualCurrency,
    problem,
  };
}

/** Whether a model is called beside the one that answers, for what nobody knows the length of. */
function callsBeside({ memory, sources }: Content): boolean {
  return memory.kind === "summary" || sources?.query === "self-contained";
}

/** Tokens that explain passages, more or less. */
const explaining = 150;

/** Tokens that passages may take with what explains them: what is found is not known before it is looked for. */
function passagesIn({ sources }: Content): number {
  return sources && sources.documents.length > 0 ? filledSources(sources).within + explaining : 0;
}

/** What visitors said in conversations of an app, as the rows of a set. Conversations in which nothing was said give none. */
export function rowsFrom(
  { conversations, messages }: HasConversations & HasMessages,
  app: StoredApp,
  { conversations: ids, which }: { conversations: readonly string[]; which: "first" | "all" },
): { rows: string[][] } {
  const rows = ids.flatMap((id) => {
    const conversation = conversations.byId(id);
    if (conversation?.app !== app.id) refuse("not-found", `${app.name} has no conversation ${id}.`);
    const line =
      conversation.tip === null ? [] : messages.stretch(conversation.tip, 1, which === "first" ? 1 : mostSaid);
    const said = line.filter(({ role }) => role === "visitor").map((message) => textOf(message).slice(0, longestSaid));
    const texts = said.filter((text) => text.trim() !== "");
    return texts.length > 0 ? [texts] : [];
  });
  return { rows };
}

/** Rows whose facts are found at a time, so that a search need not wait for it. */
const rowsAtOnce = 5;

/**
 * A set with what was answered as a file.
 * @throws {Refusal} `conflict` while the names of its lanes are hidden: the file would tell them
 */
export async function setFile(
  home: ToldSetNeeds & HasReader,
  set: StoredSet,
  as: "csv" | "jsonl",
): Promise<{ text: string; type: string }> {
  if (set.hidesNames)
    refuse("conflict", "The names of the lanes are hidden until all is marked, and this file would tell them.", {
      advice: "Mark what is left, or have the names shown.",
    });
  const told = setAnswer(home, setAt(home, set.id));
  const answered = told.rows.map((said, row) => ({
    said,
    answers: told.lanes.flatMap((_, lane) => told.answers.find((each) => each.row === row && each.lane === lane) ?? []),
  }));
  const differing: Differing[][] = [];
  for (let from = 0; from < answered.length; from += rowsAtOnce)
    differing.push(...(await home.reader.call("differing", answered.slice(from, from + rowsAtOnce).map(textsOf))));
  return as === "csv"
    ? {
        text: [csvHead, ...answered.flatMap((row, at) => csvLines(told, row, at, differing[at]))].join(""),
        type: "text/csv",
      }
    : { text: answered.map((row, at) => jsonLine(told, row, differing[at])).join(""), type: "application/jsonl" };
}

interface AnsweredRow {
  said: string[];
  answers: SetAnswer[];
}

function textsOf({ said, answers }: AnsweredRow): ToTellApart {
  return {
    question: said.join("\n"),
    lanes: answers.map((answer) => ({ lane: answer.lane, text: textOfAnswer(answer) })),
  };
}

const csvColumns = [
  "row",
  "message",
  "lane",
  "candidate",
  "provider",
  "model",
  "answer",
  "outcome",
  "first_text_ms",
  "total_ms",
  "tokens_in",
  "tokens_out",
  "price",
  "currency",
  "mark",
  "states_not_all_do",
];
const csvHead = `${csvColumns.join(",")}\r\n`;

function csvLines(
  { lanes }: MessageSet,
  { said, answers }: AnsweredRow,
  at: number,
  differing: readonly Differing[] = [],
): string[] {
  return answers.map((answer) => {
    const of = candidateOf(lanes, answer.lane);
    const { outcome, firstTextMs, ms, input, output, price, currency } = summedUp(answer);
    const stated = differing.filter(({ lanes }) => lanes.includes(answer.lane)).map(({ fact }) => fact);
    const cells = [
      at + 1,
      said.join("\n"),
      ...[of.lane, of.candidate, of.provider, of.model],
      textOfAnswer(answer),
      ...[outcome, firstTextMs, ms, input, output, price, currency],
      answer.mark ?? undefined,
      stated.join("; "),
    ];
    return `${cells.map(csvCell).join(",")}\r\n`;
  });
}

function jsonLine({ lanes }: MessageSet, { said, answers }: AnsweredRow, differing: readonly Differing[] = []): string {
  const line = {
    messages: said,
    answers: answers.map((answer) => ({
      ...candidateOf(lanes, answer.lane),
      texts: answer.replies.map(({ text }) => text),
      ...summedUp(answer),
      ...(answer.mark === null ? {} : { mark: answer.mark }),
    })),
    differing: differing.map(({ fact, lanes }) => ({ fact, lanes: lanes.map((lane) => lane + 1) })),
  };
  return `${JSON.stringify(line)}\n`;
}

/** A lane in words and numbers: from 1, and what it was chosen as. */
function candidateOf(lanes: readonly SetLane[], at: number) {
  const lane = lanes[at] as SetLane;
  const { provider, model } = lane.content;
  const candidate = `${lane.base === "live" || lane.base === "draft" ? `${lane.base}, ` : ""}revision ${lane.revision}`;
  return {
    lane: at + 1,
    candidate: lane.changedFrom ? `${candidate}, changed` : candidate,
    provider,
    model,
    content: lane.hash,
  };
}

/** The figures of an answer: those of its replies together; the first text of its first. */
function summedUp({ replies }: SetAnswer) {
  const sum = (of: (figures: SetReply["figures"]) => number | undefined) => {
    const known = replies.flatMap(({ figures }) => of(figures) ?? []);
    return known.length === 0 ? undefined : known.reduce((all, each) => all + each, 0);
  };
  const last = replies.at(-1)?.figures;
  return {
    outcome: last?.outcome ?? "not-asked",
    firstTextMs: replies[0]?.figures.firstTextMs,
    ms: sum(({ ms }) => ms),
    input: sum(({ input }) => input),
    output: sum(({ output }) => output),
    price: sum(({ price }) => price),
    currency: last?.currency,
  };
}
