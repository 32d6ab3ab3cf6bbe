import type { LedgerEntry } from "@/core/context/ledger";
import type { AppMessage, ReplyFacts } from "@/core/conversation/message";
import { joined, lastRound, type Piece, resultText, textOf, toolsIn } from "@/core/conversation/pieces";
import { type Problem, problem } from "@/core/problem/problem";
import type { Candidate, LastEvent, ReplyEvent, ReplyHead, SaidEvent, Usage } from "@/core/reply/events";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Settings } from "@/core/revision/content";
import type { Revision } from "@/core/revision/revision";
import { fillPrompt } from "@/core/revision/variables";
import { type Cited, whereOf } from "@/core/sources/found";
import { filledSources } from "@/core/sources/sources";
import { unstatedIn } from "@/core/sources/unstated";
import { sharesOf } from "@/core/tokens/share";
import type { ToolChoice } from "@/core/tools/tool";
import type { StoredApp } from "../apps/app-store";
import type { Chosen } from "../apps/candidate";
import type { OneAnswerNeeds } from "../apps/one-answer";
import type { HasConversations, Origin } from "../conversations/conversation-store";
import type { Hanging } from "../conversations/line";
import type { HasMessages } from "../conversations/message-store";
import type { HasPacking, HasRemoval } from "../database/slices";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { keepingSink } from "../dispatches/keeping-sink";
import type { HasCalls } from "../entrance/call-store";
import type { HasEnd } from "../ground/ending";
import type { HasLog } from "../ground/log";
import type { HasCaught } from "../guards/caught-store";
import { judging } from "../guards/judging";
import type { HasChanges } from "../live/changes";
import type { HasHub } from "../live/hub";
import type { Rank } from "../making/gate";
import { make } from "../making/make";
import { orderFor } from "../making/order";
import type { BegunDispatch, Take as Came, EndedDispatch, HasMeans, Made, Order, Sink } from "../making/types";
import type { HasProviders } from "../providers/provider-store";
import { benchTraffic } from "../recordings/bench-traffic";
import type { HasRecordings } from "../recordings/recording-store";
import type { HasDocuments } from "../sources/document-store";
import type { FindingNeeds } from "../sources/finding";
import type { HasVisitorDocuments } from "../sources/visitor-document-store";
import { noted } from "../sources/visitor-documents";
import { findFor } from "../sources/whole";
import type { HasSpend } from "../spend/spend-store";
import type { HasSummarising } from "../summaries/summarising";
import { type HasToolMeans, answering as toolAnswering } from "../tools/answering";
import { questionFor } from "./question";

/** What of the process is used here. */
export type AnswerNeeds = HasConversations &
  HasMessages &
  OneAnswerNeeds &
  FindingNeeds &
  HasDocuments &
  HasSummarising &
  HasChanges &
  HasDispatches &
  HasProviders &
  HasCalls &
  HasSpend &
  HasHub &
  HasCaught &
  HasVisitorDocuments &
  HasMeans &
  HasToolMeans &
  HasRecordings &
  HasRemoval &
  HasPacking &
  HasLog &
  HasEnd;

/** Milliseconds after its end that a reply which passes through can still be come back to. */
const passes = 60_000;

/** Where nobody is who could be asked something. */
const unattended = new Set<Origin>(["lane", "duet", "job"]);

/** A reply that is to be made. */
export interface Take {
  reply: AppMessage;
  head: ReplyHead;
}

/** What a reply goes on from: its pieces, its tokens as they were counted, what it used, and what it cites. */
interface Begun {
  pieces: readonly Piece[];
  reported: number | null;
  usage?: Usage;
  cites?: readonly Cited[];
}

/** Everything that one reply is made from, or several takes that come of one call. */
export interface Answering {
  app: StoredApp;
  origin: Origin;
  /** Whether its caller holds the history, and nothing of it is kept. */
  isPassing: boolean;
  takes: readonly [Take, ...Take[]];
  revision: Revision;
  settings: Settings;
  /** The model that is to answer, and those to go on to where one fails before any text. */
  speakers: readonly [Chosen, ...Chosen[]];
  variables: Record<string, string>;
  /** The last message of the line that is answered. */
  end: string;
  /** What hangs on that line. */
  hanging: Hanging;
  /** The reply that this one goes on from. */
  begun: Begun;
  /** Holds the money for a further round instead of what is held; a problem where the day has none left. */
  hold: NonNullable<Order["hold"]>;
  /** Whether tools are to be called, and one at a time alone; and whether whoever is answered can be asked for leave. */
  choice?: ToolChoice;
  isSingle?: boolean;
  canAllow?: boolean;
  /** Whether what was said can be taken back, since it is said anew. */
  canMend?: boolean;
  /** The visitor whose conversation it stands in; null for the bench's own. */
  visitor: string | null;
  /** Lets go of the money that is held for it. */
  settle: () => void;
  /** Epoch milliseconds of the call. */
  now: number;
  /** `performance.now()` of the same. */
  started: number;
}

/**
 * Has a reply made that was asked for, and publishes it until it ends. It never throws; what goes wrong is
 * the end of the reply.
 */
export function answer(home: AnswerNeeds, answering: Answering): void {
  const { begun, speakers, settings, takes, revision, variables, end, hanging, hold, now } = answering;
  const { choice, isSingle, canAllow, canMend } = answering;
  const { messages } = home;
  const { content } = revision;
  let stop = async (_last: LastEvent) => {};
  const cited = (begun.cites ?? []).map((data): SaidEvent => ({ event: "source", data }));
  const carried = [...begun.pieces.map(eventOf), ...cited];
  for (const take of takes) {
    const { reply, conversation } = take.head;
    home.hub.begin({
      reply,
      conversation,
      halt: (last) => (isLastLive(home, answering, reply) ? stop(last) : leaveOff(home, answering, take, last)),
      fail: (failure) => storeFailure(home, answering, take, failure),
    });
    home.hub.publish(reply, { event: "reply", data: take.head }, ...carried);
  }
  let lookedFor: Pick<ReplyFacts, "question" | "questionMaking"> | undefined;
  let given: string[] | undefined;
  let notReady = 0;
  let wordsAlone: ReplyFacts["wordsAlone"];
  const order = orderFor({
    content,
    variables,
    settings,
    line: {
      lastTurns: (turns) => messages.lastTurns(end, turns),
      above: (message) => messages.above(message),
      ...hanging,
    },
    speakers,
    rank: rankOf(answering.origin),
    takes: takes.length,
    begun: { text: textOf(begun), rounds: lastRound(begun) },
    mends: canMend,
    call: toolAnswering(revision.content.tools ?? [], home, {
      app: answering.app.id,
      reply: unattended.has(answering.origin) ? undefined : takes[0].head.reply,
      canAllow,
    }),
    choice,
    isSingle,
    // a recording holds all that was sent, and is forgotten with no visitor
    traffic:
      answering.origin === "bench" && answering.visitor === null
        ? benchTraffic(home, answering.app.id, speakers)
        : undefined,
    async find(message, before, signal) {
      const [speaker] = speakers;
      const { reply: owner, conversation } = takes[0].head;
      const { app, origin } = answering;
      const of = { app, revision, origin, conversation, owner, speaker, rank: rankOf(origin), before, message };
      const { question, making } = await questionFor(home, of, signal);
      if (question !== message) lookedFor = { question, questionMaking: making };
      const findings = await findFor(home, app.id, content, question, signal);
      const { unready } = findings;
      const found = noted(home, answering.visitor, conversation, findings.found);
      notReady = unready.length;
      wordsAlone = findings.wordsAlone;
      const { sources } = content;
      if (sources && !sources.beyond)
        given = [
          message,
          filledSources(sources).unknown,
          fillPrompt(revision.content, variables, now).text,
          ...found.map((each) => `${whereOf(each)}. ${each.text}`),
        ];
      return found;
    },
    hold,
    judge: judging(home, {
      app: answering.app,
      content: revision.content,
      owner: takes[0].head.reply,
      conversation: takes[0].head.conversation,
      spentOn: {
        app: answering.app.id,
        revision: revision.number,
        content: revision.hash,
        origin: answering.origin,
      },
      rank: rankOf(answering.origin),
      message: () => textOf(messages.message(takes[0].head.message) ?? { pieces: [] }),
    }),
    now,
  });
  // what can't even be begun is the end of the reply too
  const made = async () => {
    const { sink, sent } = sinkOf(home, answering);
    const making = make(order, sink, home.means);
    stop = making.stop;
    const came = await making.made;
    finish(home, answering, came, { ...sent(), ...lookedFor, unready: notReady || undefined, wordsAlone }, given);
  };
  made().catch((error) => {
    home.log.error({ error, reply: takes[0].head.reply }, "a reply could not be made");
    const failure = problem("internal", "The reply could not be made; the terminal says why.");
    finish(home, answering, { ...nothingOf(answering), takes: [lost(failure)] });
  });
}

/** What a reply said before, as its readers get it anew. */
function eventOf(piece: Piece): SaidEvent {
  switch (piece.kind) {
    case "tool": {
      const { kind: _kind, ...data } = piece;
      return { event: "tool", data };
    }
    case "data":
      return { event: "data", data: { value: piece.value } };
    case "picture": {
      const { kind: _kind, ...data } = piece;
      return { event: "picture", data };
    }
    default:
      return { event: "text", data: { text: textOf({ pieces: [piece] }) } };
  }
}

/** Who waits behind whom: visitors wait for nobody else. */
function rankOf(origin: Origin): Rank {
  if (origin === "lane" || origin === "duet") return "bench";
  return origin === "bench" || origin === "job" ? origin : "visitor";
}

/** Whether a reply is the only one of its call that has not ended. */
function isLastLive({ hub }: HasHub, { takes }: Answering, reply: string): boolean {
  return takes.every(({ head }) => head.reply === reply || !hub.isLive(head.reply));
}

/** Ends one of several takes, while the others still come: with what came of it so far. */
async function leaveOff(home: AnswerNeeds, answering: Answering, take: Take, last: LastEvent): Promise<void> {
  const { pieces, thought, cites = [] } = home.hub.standing(take.head.reply) ?? emptyReply;
  end(home, answering, take, { pieces, thought, cited: { cites, strayMarks: [] }, last });
}

/** What is told of what was sent. */
type Sent = Pick<
  ReplyFacts,
  "sent" | "summary" | "lead" | "passages" | "question" | "questionMaking" | "unready" | "wordsAlone"
>;

/** What is said goes to the hub, which commits and then publishes it; dispatches are kept along. `sent` tells what the last one carried. */
function sinkOf(home: AnswerNeeds, { app, origin, takes, revision }: Answering): { sink: Sink; sent: () => Sent } {
  const { hub, messages, log, changes } = home;
  const replies = takes.map(({ head }) => head.reply);
  const live = () => replies.find((reply) => hub.isLive(reply)) ?? (replies[0] as string);
  const { number, hash: content } = revision;
  const begun = new Set<string>();
  let dispatched: BegunDispatch | undefined;
  let firstTextAt: number | undefined;
  const { sink } = keepingSink(
    home,
    {
      purpose: origin === "lane" ? "comparison" : origin === "duet" ? "duet" : "reply",
      replies,
      conversation: takes[0].head.conversation,
      spentOn: { app: app.id, revision: number, content, origin },
    },
    (work) => hub.commitAlong(live(), work),
    {
      begin(dispatch) {
        dispatched = dispatch;
        firstTextAt = undefined;
        // whoever compares sees when a lane has waited for its place
        if (origin === "lane") changes.tell(takes[0].head.conversation);
      },
      say(take, event) {
        const reply = replies[take];
        if (reply === undefined || !hub.isLive(reply)) return;
        if (!begun.has(reply))
          hub.commitAlong(reply, () => {
            messages.markArriving(reply);
            return undefined;
          });
        begun.add(reply);
        firstTextAt ??= Date.now();
        hub.publish(reply, event);
      },
      settled: () => hub.settled(live()),
      next(attempt) {
        for (const reply of replies) hub.publish(reply, { event: "attempt", data: attempt });
      },
      end: (dispatch) => log.info({ app: app.slug, origin, ...saidOf(dispatched, firstTextAt, dispatch) }, "dispatch"),
    },
  );
  return {
    sink,
    sent: () => ({
      sent: dispatched && messagesIn(dispatched),
      summary: dispatched && summaryIn(dispatched),
      lead: dispatched?.ledger?.lead,
      passages: dispatched && passagesIn(dispatched),
    }),
  };
}

/** Messages that a dispatch sends, the system prompt not counted; undefined where nobody accounts for them. */
function messagesIn({ ledger }: BegunDispatch): number | undefined {
  return ledger?.entries.reduce((sum, entry) => sum + (entry.carried ? messagesOf(entry) : 0), 0);
}

/** Messages that a line of the ledger stands for: beside the line, those of the opening alone. */
function messagesOf(entry: LedgerEntry): number {
  if (entry.part === "beside") return entry.kind === "opening" ? (entry.count ?? 0) : 0;
  return entry.part === "summary" || entry.part === "passage" ? 0 : entry.count;
}

/** The last turn that its summary covers; 0 where one was wanted and none was sent. */
function summaryIn({ ledger }: BegunDispatch): number | undefined {
  const entry = ledger?.entries.find(({ part }) => part === "summary");
  return entry?.part === "summary" ? (entry.carried ? entry.turn : 0) : undefined;
}

/** How many passages its message found, and how many go along; undefined where there are no documents. */
function passagesIn({ ledger }: BegunDispatch): ReplyFacts["passages"] {
  const entries = ledger?.entries ?? [];
  if (!entries.some((entry) => entry.part === "beside" && entry.kind === "explaining")) return undefined;
  const passages = entries.filter(({ part }) => part === "passage");
  return { found: passages.length, carried: passages.filter(({ carried }) => carried).length };
}

/** What the log says of a dispatch: no word of what was said. */
function saidOf(begun: BegunDispatch | undefined, firstTextAt: number | undefined, ended: EndedDispatch) {
  const { outcome, usage, endedAt } = ended;
  const { startedAt = endedAt, model, attempt } = begun ?? {};
  return {
    model,
    attempt,
    messages: begun && messagesIn(begun),
    input: usage?.input,
    output: usage?.output,
    firstTextMs: firstTextAt === undefined ? undefined : firstTextAt - startedAt,
    totalMs: endedAt - startedAt,
    end: outcome.event === "end" ? outcome.data.reason : outcome.data.kind,
  };
}

/** Ends all takes of a call that have not ended: each with its share of what the call used. */
function finish(
  home: AnswerNeeds,
  answering: Answering,
  made: Made,
  sent: Sent = {},
  /** All that it may state the facts of, where it may answer from documents alone. */
  given?: readonly string[],
): void {
  // what it cost is written along with its end; until then it stays held
  const { reply } = answering.takes[0].head;
  home.hub.commitAlong(reply, () => answering.settle);
  const { takes, speakers } = answering;
  const { speaker, attempts, rounds, failures, firstTextAt, carry, version, isMended } = made;
  const usage = usageOf(made, answering.begun, speakers[0].model.price.currency);
  const left = takes.flatMap((take, at) =>
    home.hub.isLive(take.head.reply) ? [{ take, came: made.takes[at] ?? nothingCame(made) }] : [],
  );
  const { price } = modelOf(speakers, speaker);
  const shares =
    usage &&
    sharesOf(
      usage,
      left.map(({ came }) => textOf(came).length + came.thought.length),
      price,
    );
  for (const [at, { take, came }] of left.entries()) {
    const { provider, model } = take.reply.facts;
    const isFallback = speaker.provider !== provider || speaker.model !== model;
    const pieces = joined(answering.begun.pieces, came.pieces);
    // what a tool said is given too
    const fromTools = toolsIn({ pieces }).map(resultText);
    const unstated = given ? unstatedIn(textOf({ pieces }), [...given, ...fromTools]) : [];
    end(
      home,
      answering,
      take,
      { ...came, pieces },
      {
        ...speaker,
        usage: shares?.[at],
        firstTextMs: firstTextAt === undefined ? undefined : Math.round(firstTextAt - answering.started),
        trace: at === 0 ? made.trace : undefined,
        ...sent,
        unstated: unstated.length > 0 ? unstated : undefined,
        attempts: attempts - rounds > 1 ? attempts - rounds : undefined,
        failures: failures.length > 0 ? failures : undefined,
        insteadOf: isFallback ? { provider, model } : undefined,
        carry: at === 0 && carry.length > 0 ? carry : undefined,
        rounds: rounds > (isMended ? 1 : 0) ? rounds - (isMended ? 1 : 0) : undefined,
        mended: isMended,
        version,
      },
    );
  }
  if (!answering.isPassing && left[0]) home.hub.commitAlong(reply, () => () => sumUp(home, answering, made));
}

/** The model of who answered: two providers may have one of the same name. */
function modelOf(speakers: Answering["speakers"], { provider, model: name }: Candidate): Chosen["model"] {
  const found = speakers.find(({ connection, model }) => connection.slug === provider && model.name === name);
  return (found ?? speakers[0]).model;
}

/**
 * What a reply used. Its price is that of all its calls: of the reply that it goes on from, of the attempts before the
 * last one, also where nothing came of that, and of the last.
 */
function usageOf({ usage, paidBefore }: Made, begun: Answering["begun"], currency: string): Usage | undefined {
  const before = paidBefore + (begun.usage?.price ?? 0);
  if (!usage && before === 0) return undefined;
  const last = usage ?? { input: 0, output: 0, estimated: true, price: 0, currency };
  const unpriced = begun.usage?.isUnpriced ? { isUnpriced: true as const } : {};
  return { ...last, price: Math.round((last.price + before) * 1e6) / 1e6, ...unpriced };
}

/** Has what is older now summed up, where the memory wants that. */
function sumUp({ summarising }: HasSummarising, answering: Answering, { speaker }: Made): void {
  const { app, origin, revision, takes, speakers } = answering;
  const { window, calibration } = modelOf(speakers, speaker);
  const { reply: end, conversation } = takes[0].head;
  summarising.want({
    app,
    origin,
    revision,
    content: revision.content,
    conversation,
    end,
    by: speaker,
    window,
    calibration,
  });
}

/** A take that an API gave nothing of, though it was asked for it. */
function nothingCame({ takes: [first] }: Made): Came {
  const { last } = first;
  if (last.event === "problem" || last.data.reason === "stopped") return { pieces: [], thought: "", last };
  return lost(problem("empty", "The answer holds fewer takes than were asked for."));
}

/** Ends the reply: stores what came of it, with what was there before, and tells its readers. */
function end(home: AnswerNeeds, answering: Answering, take: Take, came: Came, made: Partial<ReplyFacts> = {}): void {
  const { hub, messages, calls } = home;
  const { begun, started, isPassing, takes } = answering;
  const { reply, conversation } = take.head;
  const { pieces, thought, cited, caught = [], last } = came;
  const { usage } = made;
  const cites = [...(begun.cites ?? []), ...(cited?.cites ?? [])].filter(isFirst);
  const strayMarks = cited?.strayMarks ?? [];
  const { state } = [last as ReplyEvent].reduce(fold, emptyReply);
  const facts = {
    ...take.reply.facts,
    ...made,
    thought: thought || undefined,
    cites: cites.length > 0 ? cites : undefined,
    strayMarks: strayMarks.length > 0 ? [...strayMarks] : undefined,
    caught: caught.length > 0 ? [...caught] : undefined,
    problem: last.event === "problem" ? last.data : undefined,
    totalMs: Math.round(performance.now() - started),
  };
  // of several takes together, nobody knows which of them how many are
  // of calls of tools, a part was counted with what was sent
  const isCounted = takes.length === 1 && toolsIn({ pieces }).length === 0;
  const own = usage && !usage.estimated && isCounted ? usage.output - (usage.thought ?? 0) : null;
  const reported = own === null || begun.reported === null ? null : begun.reported + own;
  hub.commitAlong(reply, () => {
    messages.finishReply({ id: reply, state, pieces: [...pieces], reported, facts });
    home.caught.add({ app: answering.app.id, conversation, reply, at: Date.now() }, caught);
    calls.end(reply, state, facts.firstTextMs ?? null, usage ?? null, Date.now());
    return undefined;
  });
  hub.publish(reply, ...(usage ? [{ event: "usage", data: usage } as const] : []), last);
  if (isPassing) setTimeout(() => letPass(home, conversation), passes).unref();
}

/** Whether a passage is cited for the first time in a list. */
function isFirst({ mark }: Cited, at: number, all: readonly Cited[]): boolean {
  return all.findIndex((each) => each.mark === mark) === at;
}

/** Deletes what passed through. */
function letPass({ conversations, removal, log, isClosing }: AnswerNeeds, conversation: string): void {
  if (isClosing()) return;
  try {
    conversations.leave(conversation, Date.now());
    void removal.start();
  } catch (error) {
    log.error({ error }, "what passed through could not be deleted yet; it is tried again within an hour");
  }
}

/** Writes that a reply failed, with what is safe to write: for when its own end could not be written. */
function storeFailure({ messages }: HasMessages, { begun }: Answering, { reply }: Take, failure: Problem): void {
  const { id, facts } = reply;
  const pieces = [...begun.pieces];
  messages.finishReply({ id, state: "failed", pieces, reported: null, facts: { ...facts, problem: failure } });
}

function nothingOf({ takes }: Answering): Omit<Made, "takes"> {
  const { provider, model } = takes[0].reply.facts;
  return {
    speaker: { provider, model },
    status: null,
    attempts: 0,
    rounds: 0,
    paidBefore: 0,
    failures: [],
    carry: [],
  };
}

function lost(failure: Problem): Came {
  return { pieces: [], thought: "", last: { event: "problem", data: failure } };
}
