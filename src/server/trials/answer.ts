import type { Figures, SeenCall, SeenPassage, SentTurn } from "@/core/checks/seen";
import { sentIn } from "@/core/checks/sent";
import { measure } from "@/core/context/assemble";
import type { Ledger } from "@/core/context/ledger";
import { mostTokens } from "@/core/context/reach";
import { rowOf } from "@/core/context/row";
import { type Piece, resultText, textOf, toolsIn } from "@/core/conversation/pieces";
import type { Problem } from "@/core/problem/problem";
import { modelsThatSee, placesFor } from "@/core/provider/places";
import type { LastEvent, ReplyEvent } from "@/core/reply/events";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Content } from "@/core/revision/content";
import type { Revision } from "@/core/revision/revision";
import { fillPrompt } from "@/core/revision/variables";
import { type Cited, whereOf } from "@/core/sources/found";
import { filledSources } from "@/core/sources/sources";
import type { StoredApp } from "../apps/app-store";
import { HeldMoney, holdForCalls, mostOf } from "../apps/budget";
import { type Chosen, chosenFor, fallbacksOf } from "../apps/candidate";
import type { HasContents } from "../apps/content-store";
import type { Work } from "../database/work";
import { keepingSink } from "../dispatches/keeping-sink";
import type { Traffic } from "../exchange/traffic";
import { isRefusal, Refusal } from "../ground/refusal";
import { judging } from "../guards/judging";
import { make } from "../making/make";
import { orderFor } from "../making/order";
import type { BegunDispatch, Made, Purpose } from "../making/types";
import { questionFor } from "../replies/question";
import type { HasDocuments } from "../sources/document-store";
import type { FindingNeeds } from "../sources/finding";
import type { HasPassages } from "../sources/passage-store";
import type { HasSources } from "../sources/source-store";
import { countsOfWholes, findFor, wholesOf } from "../sources/whole";
import type { SummarisingNeeds } from "../summaries/summarising";
import { answering, type HasToolMeans } from "../tools/answering";
import { recorded } from "../tools/recorded";
import type { TrialLine } from "./trial-line";

/** What of the process is used here. */
export type AnswerNeeds = SummarisingNeeds & HasContents & FindingNeeds & HasDocuments & HasToolMeans;

/** One go on a candidate. */
export interface TrialOf {
  /** Its id, under which its dispatches are kept, and what it is made for. */
  id: string;
  purpose: Extract<Purpose, "check" | "comparison">;
  app: StoredApp;
  candidate: Revision;
  seed: number;
  /** What stands between it and its providers. */
  traffic?: Traffic;
}

/** A reply of a trial, before it is judged. */
export interface Answered {
  pieces: Piece[];
  figures: Figures;
  /** The times of the call that answered, whatever was tried before it. */
  alone: Pick<Figures, "firstTextMs" | "ms">;
  /** Null where nothing was sent. */
  making: string | null;
  /** The prompt that was sent, its variables filled. */
  prompt: string;
  /** What became of the turns before, and of what the message found in documents. */
  sent: {
    turns: SentTurn[];
    hasPin: boolean;
    hasSummary: boolean;
    passages: SeenPassage[];
    calls: SeenCall[];
    unknown: string | null;
  };
}

/** Calls that are made at once of a provider that has no limit of its own; jobs leave one of them free. */
const atOnce = 9;

export const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

/** Has the newest message of a trial answered, adds the reply to the line, and gives it; a failure is a reply too. */
export async function answer(
  home: AnswerNeeds,
  trial: TrialOf,
  { line, now, given }: { line: TrialLine; now: number; given: Record<string, string> },
  signal: AbortSignal,
): Promise<Answered> {
  const { content } = trial.candidate;
  const variables = { ...content.samples, ...given };
  const prompt = fillPrompt(content, variables, now).text;
  const started = performance.now();
  const answered = await made(home, trial, { line, now, variables }, signal).catch((error) => {
    if (!isRefusal(error)) throw error;
    return { failure: error.problem };
  });
  const { provider, model } = content;
  const facts = { provider, model, revision: trial.candidate.number };
  if ("failure" in answered) {
    line.answer({ pieces: [], state: "failed", reported: null, facts, now });
    return { pieces: [], figures: failed(answered.failure), alone: { ms: 0 }, making: null, prompt, sent: nothingSent };
  }
  const { came, making, begun, begunAts } = answered;
  const [begunAt = started] = begunAts;
  const { firstTextAt } = came;
  const aloneAt = begunAts.findLast((at) => firstTextAt === undefined || at <= firstTextAt) ?? begunAt;
  const endedAt = performance.now();
  const [{ pieces, cited, last }] = came.takes;
  const { state } = [last as ReplyEvent].reduce(fold, emptyReply);
  const { usage, carry, speaker, paidBefore } = came;
  const isCounted = usage !== undefined && !usage.estimated && toolsIn({ pieces }).length === 0;
  const reported = isCounted ? usage.output - (usage.thought ?? 0) : null;
  const along = { carry: carry.length > 0 ? carry : undefined, cites: cited?.cites.slice() };
  line.answer({ pieces, state, reported, facts: { ...facts, ...speaker, ...along }, now });
  const figures: Figures = {
    outcome: last.event === "problem" ? last.data.kind : state,
    problem: last.event === "problem" ? last.data : undefined,
    firstTextMs: since(begunAt, firstTextAt),
    // what it waited for its place is not its own
    ms: since(begunAt, endedAt),
    input: usage?.input,
    output: usage?.output,
    price: usage || paidBefore > 0 ? (usage?.price ?? 0) + paidBefore : undefined,
    currency: usage?.currency,
    version: came.version,
  };
  const calls = toolsIn({ pieces }).map((piece) => {
    const { round, name, arguments: given } = piece;
    return { round, name, arguments: given, result: resultText(piece) };
  });
  const pinned = line.pinned.map(({ visitor }) => visitor.turn);
  const sent = begun?.ledger
    ? {
        ...sentIn(begun.ledger, line.turns - 1, pinned),
        passages: passagesSeen(home, content, begun.ledger, cited?.cites ?? []),
        calls,
        unknown: unknownOf(content),
      }
    : { ...nothingSent, calls, unknown: unknownOf(content) };
  const alone = { firstTextMs: since(aloneAt, firstTextAt), ms: since(aloneAt, endedAt) };
  return { pieces, figures, alone, making: begun ? making : null, prompt, sent };
}

function since(begun: number, at: number): number;
function since(begun: number, at: number | undefined): number | undefined;
function since(begun: number, at: number | undefined): number | undefined {
  return at === undefined ? undefined : Math.round(at - begun);
}

const nothingSent: Answered["sent"] = {
  turns: [],
  hasPin: false,
  hasSummary: false,
  passages: [],
  calls: [],
  unknown: null,
};

/** How a content says that its documents hold no answer; null where it need not. */
function unknownOf({ sources }: Content): string | null {
  if (!sources || sources.documents.length === 0 || sources.beyond) return null;
  return filledSources(sources).unknown;
}

/** What a message found in documents, as its ledger has it. */
function passagesSeen(
  home: HasPassages & HasSources & HasDocuments,
  content: Content,
  { entries }: Ledger,
  cites: readonly Cited[],
): SeenPassage[] {
  const wholes = new Map(wholesOf(home, content).found.map(({ passage, text }) => [passage, text]));
  return entries.flatMap((entry): SeenPassage[] => {
    if (entry.part !== "passage") return [];
    const { passage, title, where, whole, rank, mark, carried, reason } = entry;
    return [
      {
        rank,
        mark,
        where: whereOf({ title, where, whole }),
        text: wholes.get(passage) ?? home.passages.byId(Number(passage))?.text ?? "",
        isCited: cites.some((each) => each.passage === passage),
        ...(carried ? {} : { reason: reason.kind }),
      },
    ];
  });
}

function failed(failure: Problem): Figures {
  return { outcome: failure.kind, problem: failure, ms: 0 };
}

/** Has it made. @throws {Refusal} where it can't even be begun */
async function made(
  home: AnswerNeeds,
  { id, purpose, app, candidate, seed, traffic }: TrialOf,
  { line, now, variables }: { line: TrialLine; now: number; variables: Record<string, string> },
  signal: AbortSignal,
): Promise<{ came: Made; making: string; begun: BegunDispatch | undefined; begunAts: readonly number[] }> {
  const { content, number, hash } = candidate;
  const chosen = chosenFor(home, content);
  const speakers: [Chosen, ...Chosen[]] = [chosen, ...fallbacksOf(home, content)];
  const { window, calibration, price } = chosen.model;
  const by = { provider: chosen.connection.slug, model: chosen.model.name };
  const places = placesFor(chosen.connection.profile, chosen.model);
  const seeing = () => modelsThatSee(home.providers.withModels());
  const { clears, pinned, summaries } = line;
  const wholes = countsOfWholes(home, content);
  const measured = measure(
    { content, variables, by, window, places, seeing, calibration, now, wholes, clears, pinned, summaries },
    [line.newest].map(rowOf),
  );
  if (measured.kind === "refused") throw new Refusal(measured.problem);
  const { maxOutput } = content.settings;
  const most = mostOf(
    speakers.map(({ model }) => model),
    mostTokens(measured.reach),
    maxOutput,
    1,
  );
  const [held = () => {}] = holdForCalls(home, app, [most], price.currency, Date.now(), true);
  const money = new HeldMoney(home, app, maxOutput, true, held);
  const order = orderFor({
    content,
    variables,
    settings: { ...content.settings, seed },
    line,
    speakers: speakers.map(bounded) as [Chosen, ...Chosen[]],
    rank: "job",
    takes: 1,
    begun: { text: "", rounds: 0 },
    call: recorded(answering(content.tools ?? [], home, { app: app.id }), content.tools ?? [], traffic),
    async find(message, before, signal) {
      const of = {
        app,
        revision: candidate,
        origin: "job",
        conversation: null,
        owner: id,
        speaker: chosen,
        before,
        message,
        traffic,
      };
      const { question } = await questionFor(home, { ...of, rank: "job" }, signal);
      return (await findFor(home, app.id, content, question, signal)).found;
    },
    hold: money.hold,
    judge: judging(home, {
      app,
      content,
      owner: id,
      conversation: null,
      spentOn: { app: app.id, revision: number, content: hash, origin: "job" },
      rank: "job",
      traffic,
      message: () => textOf(line.newest),
    }),
    traffic,
    now,
  });
  let begun: BegunDispatch | undefined;
  const begunAts: number[] = [];
  const spentOn = { app: app.id, revision: number, content: hash, origin: "job" };
  const { making, sink } = keepingSink(
    home,
    { purpose, owner: id, conversation: null, spentOn },
    (work) => committed(home, work),
    {
      begin(dispatch) {
        begun = dispatch;
        begunAts.push(performance.now());
      },
    },
  );
  const under = make(order, sink, home.means);
  const stop = () => void under.stop(stopped);
  signal.addEventListener("abort", stop);
  if (signal.aborted) stop();
  try {
    return { came: await under.made, making, begun, begunAts };
  } finally {
    signal.removeEventListener("abort", stop);
    money.settle();
  }
}

/** A speaker whose provider has a limit: many trials at once are no reason to flood it. */
function bounded(speaker: Chosen): Chosen {
  const { connection } = speaker;
  return connection.atOnce === null ? { ...speaker, connection: { ...connection, atOnce } } : speaker;
}

/** Has work done in a transaction of its own. */
export function committed({ database }: Pick<AnswerNeeds, "database">, work: Work): void {
  database.transaction(work).immediate()?.();
}
