import { assemble, type MessageAbove } from "@/core/context/assemble";
import type { AppMessage, Message, ReplyFacts } from "@/core/conversation/message";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import { type Problem, problem } from "@/core/problem/problem";
import type { Candidate, LastEvent, ReplyEvent, ReplyHead, Usage } from "@/core/reply/events";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Settings } from "@/core/revision/content";
import type { Revision } from "@/core/revision/revision";
import { sharesOf } from "@/core/tokens/share";
import type { StoredApp } from "../apps/app-store";
import type { Chosen } from "../apps/candidate";
import type { HasConversations, Origin } from "../conversations/conversation-store";
import type { Hanging } from "../conversations/line";
import type { HasMessages } from "../conversations/message-store";
import type { HasPacking, HasRemoval } from "../database/slices";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { DispatchRecorder } from "../dispatches/recorder";
import type { HasCalls } from "../entrance/call-store";
import type { HasEnd } from "../ground/ending";
import type { HasLog } from "../ground/log";
import type { HasHub } from "../live/hub";
import type { Rank } from "../making/gate";
import { make } from "../making/make";
import type {
  BegunDispatch,
  Take as Came,
  Context,
  EndedDispatch,
  HasMeans,
  Made,
  Sink,
  Speaker,
} from "../making/types";
import type { HasProviders } from "../providers/provider-store";
import type { HasSpend } from "../spend/spend-store";
import type { HasSummarising } from "../summaries/summarising";

/** What of the process is used here. */
export type AnswerNeeds = HasConversations &
  HasMessages &
  HasSummarising &
  HasDispatches &
  HasProviders &
  HasCalls &
  HasSpend &
  HasHub &
  HasMeans &
  HasRemoval &
  HasPacking &
  HasLog &
  HasEnd;

/** Milliseconds after its end that a reply which passes through can still be come back to. */
const passes = 60_000;
/** Turns of a line that are read at first. */
const turnsFirst = 32;

/** A reply that is to be made. */
export interface Take {
  reply: AppMessage;
  head: ReplyHead;
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
  /** The reply that this one goes on from: its text, its tokens as they were counted, and what it used. */
  begun: { text: string; reported: number | null; usage?: Usage };
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
  const { begun, speakers, settings, takes } = answering;
  let stop = async (_last: LastEvent) => {};
  const carried: ReplyEvent[] = begun.text === "" ? [] : [{ event: "text", data: { text: begun.text } }];
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
  const order = {
    rank: rankOf(answering.origin),
    speakers,
    gather: gathering(home, answering),
    settings,
    streams: true,
    takes: takes.length,
    begun: begun.text.length,
  };
  // what can't even be begun is the end of the reply too
  const made = async () => {
    const { sink, sent } = sinkOf(home, answering);
    const making = make(order, sink, home.means);
    stop = making.stop;
    finish(home, answering, await making.made, sent());
  };
  made().catch((error) => {
    home.log.error({ error, reply: takes[0].head.reply }, "a reply could not be made");
    const failure = problem("internal", "The reply could not be made; the terminal says why.");
    finish(home, answering, { ...nothingOf(answering), takes: [lost(failure)] });
  });
}

/** Who waits behind whom: visitors wait for nobody else. */
function rankOf(origin: Origin): Rank {
  return origin === "bench" || origin === "job" ? origin : "visitor";
}

/** Whether a reply is the only one of its call that has not ended. */
function isLastLive({ hub }: HasHub, { takes }: Answering, reply: string): boolean {
  return takes.every(({ head }) => head.reply === reply || !hub.isLive(head.reply));
}

/** Ends one of several takes, while the others still come: with what came of it so far. */
async function leaveOff(home: AnswerNeeds, answering: Answering, take: Take, last: LastEvent): Promise<void> {
  const { pieces, thought } = home.hub.standing(take.head.reply) ?? emptyReply;
  end(home, answering, take, { text: textOf({ pieces }).slice(answering.begun.text.length), thought, last });
}

/**
 * Gathers what a model is sent, for each model anew, since each has a window of its own. The end of the line
 * is read first, and more of it as far as it is wanted.
 */
function gathering({ messages }: HasMessages, { revision, variables, end, now, hanging }: Answering) {
  return (speaker: Speaker): Context => {
    const { connection, model } = speaker as Chosen;
    const { window, calibration } = model;
    const by = { provider: connection.slug, model: model.name };
    const asked = { content: revision.content, variables, by, window, calibration, now, ...hanging };
    let above: MessageAbove[] = [];
    for (let turns = turnsFirst; ; ) {
      const line = messages.lastTurns(end, turns);
      const assembled = assemble(asked, line, above);
      if (assembled.kind !== "short") return assembled;
      if (assembled.of === "end") turns *= 4;
      else above = messages.above(line[0] as Message);
    }
  };
}

/** What is told of what was sent. */
type Sent = Pick<ReplyFacts, "sent" | "summary" | "lead">;

/** Words go to the hub, which commits and then publishes them; dispatches are kept along. `sent` tells what the last one carried. */
function sinkOf(home: AnswerNeeds, { app, origin, takes, revision }: Answering): { sink: Sink; sent: () => Sent } {
  const { hub, messages, dispatches, log } = home;
  const replies = takes.map(({ head }) => head.reply);
  const live = () => replies.find((reply) => hub.isLive(reply)) ?? (replies[0] as string);
  const making = dispatches.make("reply", null, replies, Date.now());
  const { number, hash: content } = revision;
  const spentOn = { app: app.id, revision: number, content, owner: null, origin, purpose: "reply" as const };
  const { conversation } = takes[0].head;
  const recorder = new DispatchRecorder(home, making, spentOn, conversation, (work) => hub.commitAlong(live(), work));
  const begun = new Set<string>();
  let dispatched: BegunDispatch | undefined;
  let firstTextAt: number | undefined;
  const sink: Sink = {
    begin(dispatch) {
      dispatched = dispatch;
      firstTextAt = undefined;
      recorder.begin(dispatch);
    },
    bytes: (...arrival) => recorder.bytes(...arrival),
    leaveOutBytes: (dispatch) => recorder.leaveOutBytes(dispatch),
    say(take, event, text) {
      const reply = replies[take];
      if (reply === undefined || !hub.isLive(reply)) return;
      if (!begun.has(reply))
        hub.commitAlong(reply, () => {
          messages.markArriving(reply);
          return undefined;
        });
      begun.add(reply);
      firstTextAt ??= Date.now();
      hub.publish(reply, { event, data: { text } });
    },
    next(attempt) {
      for (const reply of replies) hub.publish(reply, { event: "attempt", data: attempt });
    },
    end(dispatch) {
      recorder.end(dispatch);
      log.info({ app: app.slug, origin, ...saidOf(dispatched, firstTextAt, dispatch) }, "dispatch");
    },
  };
  return {
    sink,
    sent: () => ({
      sent: dispatched && messagesIn(dispatched),
      summary: dispatched && summaryIn(dispatched),
      lead: dispatched?.ledger?.lead,
    }),
  };
}

/** Messages that a dispatch sends, the system prompt not counted; undefined where nobody accounts for them. */
function messagesIn({ ledger }: BegunDispatch): number | undefined {
  return ledger?.entries.reduce((sum, entry) => sum + (entry.carried && "count" in entry ? entry.count : 0), 0);
}

/** The last turn that its summary covers; 0 where one was wanted and none was sent. */
function summaryIn({ ledger }: BegunDispatch): number | undefined {
  const entry = ledger?.entries.find(({ part }) => part === "summary");
  return entry?.part === "summary" ? (entry.carried ? entry.turn : 0) : undefined;
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
function finish(home: AnswerNeeds, answering: Answering, made: Made, sent: Sent = {}): void {
  // what it cost is written along with its end; until then it stays held
  const { reply } = answering.takes[0].head;
  home.hub.commitAlong(reply, () => answering.settle);
  const { takes, speakers } = answering;
  const { speaker, attempts, failures, firstTextAt } = made;
  const usage = usageOf(made, answering.begun, speakers[0].model.price.currency);
  const left = takes.flatMap((take, at) =>
    home.hub.isLive(take.head.reply) ? [{ take, came: made.takes[at] ?? nothingCame(made) }] : [],
  );
  const { price } = modelOf(speakers, speaker);
  const shares =
    usage &&
    sharesOf(
      usage,
      left.map(({ came }) => came.text.length + came.thought.length),
      price,
    );
  for (const [at, { take, came }] of left.entries()) {
    const { provider, model } = take.reply.facts;
    const isFallback = speaker.provider !== provider || speaker.model !== model;
    end(home, answering, take, came, {
      ...speaker,
      usage: shares?.[at],
      firstTextMs: firstTextAt === undefined ? undefined : Math.round(firstTextAt - answering.started),
      trace: at === 0 ? made.trace : undefined,
      ...sent,
      attempts: attempts > 1 ? attempts : undefined,
      failures: failures.length > 0 ? failures : undefined,
      insteadOf: isFallback ? { provider, model } : undefined,
      carry: at === 0 ? made.carry : undefined,
    });
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
  if (last.event === "problem" || last.data.reason === "stopped") return { text: "", thought: "", last };
  return lost(problem("empty", "The answer holds fewer takes than were asked for."));
}

/** Ends the reply: stores what came of it, and tells its readers. */
function end(home: AnswerNeeds, answering: Answering, take: Take, came: Came, made: Partial<ReplyFacts> = {}): void {
  const { hub, messages, calls } = home;
  const { begun, started, isPassing, takes } = answering;
  const { reply, conversation } = take.head;
  const { text, thought, last } = came;
  const { usage } = made;
  const { state } = [last as ReplyEvent].reduce(fold, emptyReply);
  const facts = {
    ...take.reply.facts,
    ...made,
    thought: thought || undefined,
    problem: last.event === "problem" ? last.data : undefined,
    totalMs: Math.round(performance.now() - started),
  };
  // of several takes together, nobody knows which of them how many are
  const own = usage && !usage.estimated && takes.length === 1 ? usage.output - (usage.thought ?? 0) : null;
  const reported = own === null || begun.reported === null ? null : begun.reported + own;
  hub.commitAlong(reply, () => {
    messages.finishReply({ id: reply, state, pieces: piecesOf(begun.text + text), reported, facts });
    calls.end(reply, state, facts.firstTextMs ?? null, usage ?? null, Date.now());
    return undefined;
  });
  hub.publish(reply, ...(usage ? [{ event: "usage", data: usage } as const] : []), last);
  if (isPassing) setTimeout(() => letPass(home, conversation), passes).unref();
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
  const pieces = piecesOf(begun.text);
  messages.finishReply({ id, state: "failed", pieces, reported: null, facts: { ...facts, problem: failure } });
}

function nothingOf({ takes }: Answering): Omit<Made, "takes"> {
  const { provider, model } = takes[0].reply.facts;
  return { speaker: { provider, model }, status: null, attempts: 0, paidBefore: 0, failures: [] };
}

function lost(failure: Problem): Came {
  return { text: "", thought: "", last: { event: "problem", data: failure } };
}
