import { assemble, type MessageAbove } from "@/core/context/assemble";
import type { AppMessage, Message } from "@/core/conversation/message";
import { piecesOf } from "@/core/conversation/pieces";
import { type Problem, problem } from "@/core/problem/problem";
import type { LastEvent, ReplyEvent, ReplyHead } from "@/core/reply/events";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Revision } from "@/core/revision/revision";
import type { StoredApp } from "../apps/app-store";
import type { Origin } from "../conversations/conversation-store";
import { DispatchRecorder } from "../dispatches/recorder";
import type { Home } from "../home";
import { make } from "../making/make";
import type { BegunDispatch, Context, EndedDispatch, Made, Sink, Speaker } from "../making/types";
import type { StoredModel, StoredProvider } from "../providers/provider-store";

/** Milliseconds after its end that a reply which passes through can still be come back to. */
const passes = 60_000;
/** Messages of a line that are read at first. */
const readFirst = 64;

/** A model that an app speaks through. */
export interface Chosen extends Speaker {
  connection: StoredProvider;
  model: StoredModel;
}

/** Everything that one reply is made from. */
export interface Asking {
  app: StoredApp;
  origin: Origin;
  /** Whether its caller holds the history, and nothing of it is kept. */
  isPassing: boolean;
  reply: AppMessage;
  head: ReplyHead;
  revision: Revision;
  /** The model that is to answer, and those to go on to where one fails before any text. */
  speakers: readonly [Chosen, ...Chosen[]];
  variables: Record<string, string>;
  /** The last message of the line that is answered. */
  end: string;
  /** The reply that this one goes on from: its text, and its tokens as they were counted. */
  begun: { text: string; reported: number | null };
  /** Epoch milliseconds of the call. */
  now: number;
  /** `performance.now()` of the same. */
  started: number;
}

/**
 * Has a reply made that was asked for, and publishes it until it ends. It never throws; what goes wrong is
 * the end of the reply.
 */
export function answer(boot: Home, asking: Asking): void {
  const { head, begun, revision, speakers } = asking;
  const { reply, conversation } = head;
  let stop = async (_last: LastEvent) => {};
  boot.hub.begin({
    reply,
    conversation,
    halt: (last) => stop(last),
    fail: (failure) => storeFailure(boot, asking, failure),
  });
  const carried: ReplyEvent[] = begun.text === "" ? [] : [{ event: "text", data: { text: begun.text } }];
  boot.hub.publish(reply, { event: "reply", data: head }, ...carried);
  const order = {
    speakers,
    gather: gathering(boot, asking),
    settings: revision.content.settings,
    streams: true,
    takes: 1,
    begun: begun.text.length,
  };
  // what can't even be begun is the end of the reply too
  const made = async () => {
    const making = make(order, sinkOf(boot, asking), boot.means);
    stop = making.stop;
    return making.made;
  };
  made()
    .then((result) => finish(boot, asking, result))
    .catch((error) => {
      boot.log.error({ error, reply }, "a reply could not be made");
      const failure = problem("internal", "The reply could not be made; the terminal says why.");
      finish(boot, asking, { ...nothingOf(asking), takes: [lost(failure)] });
    });
}

/**
 * Gathers what a model is sent, for each model anew, since each has a window of its own. The end of the line
 * is read first, and more of it as far as it is wanted.
 */
function gathering({ conversations }: Home, { revision, variables, end, now }: Asking) {
  return (speaker: Speaker): Context => {
    const { connection, model } = speaker as Chosen;
    const { window, calibration } = model;
    const asked = { content: revision.content, variables, provider: connection.name, window, calibration, now };
    let above: MessageAbove[] = [];
    for (let length = readFirst; ; ) {
      const line = conversations.line(end, length);
      const assembled = assemble(asked, line, above);
      if (assembled.kind !== "short") return assembled;
      if (assembled.of === "end") length *= 4;
      else above = conversations.above(line[0] as Message);
    }
  };
}

/** Words go to the hub, which commits and then publishes them; dispatches are kept along. */
function sinkOf(boot: Home, { app, origin, head, revision }: Asking): Sink {
  const { hub, conversations, dispatches, log } = boot;
  const { reply } = head;
  const making = dispatches.make("reply", null, [reply], Date.now());
  const spentOn = { app: app.id, revision: revision.number, origin, purpose: "reply" };
  const recorder = new DispatchRecorder(boot, making, spentOn, (work) => hub.commitAlong(reply, work));
  let hasBegun = false;
  let begun: BegunDispatch | undefined;
  let firstTextAt: number | undefined;
  return {
    begin(dispatch) {
      begun = dispatch;
      firstTextAt = undefined;
      recorder.begin(dispatch);
    },
    bytes: (...arrival) => recorder.bytes(...arrival),
    leaveOutBytes: (dispatch) => recorder.leaveOutBytes(dispatch),
    say(_take, event, text) {
      if (!hasBegun)
        hub.commitAlong(reply, () => {
          conversations.markArriving(reply);
          return undefined;
        });
      hasBegun = true;
      firstTextAt ??= Date.now();
      hub.publish(reply, { event, data: { text } });
    },
    next: (attempt) => hub.publish(reply, { event: "attempt", data: attempt }),
    end(dispatch) {
      recorder.end(dispatch);
      log.info({ app: app.slug, origin, ...saidOf(begun, firstTextAt, dispatch) }, "dispatch");
    },
  };
}

/** What the log says of a dispatch: no word of what was said. */
function saidOf(begun: BegunDispatch | undefined, firstTextAt: number | undefined, ended: EndedDispatch) {
  const { outcome, usage, endedAt } = ended;
  const { startedAt = endedAt, model, attempt, ledger } = begun ?? {};
  return {
    model,
    attempt,
    messages: ledger?.entries.reduce(
      (sum, entry) => sum + (!entry.carried ? 0 : entry.part === "prompt" ? 1 : entry.count),
      0,
    ),
    input: usage?.input,
    output: usage?.output,
    firstTextMs: firstTextAt === undefined ? undefined : firstTextAt - startedAt,
    totalMs: endedAt - startedAt,
    end: outcome.event === "end" ? outcome.data.reason : outcome.data.kind,
  };
}

/** Ends the reply: stores what came of it, and tells its readers. */
function finish(boot: Home, { head, begun, reply, started, isPassing }: Asking, made: Made): void {
  const { hub, conversations, calls } = boot;
  // one that could not be written has its end already
  if (!hub.isLive(head.reply)) return;
  const [{ text, thought, last }] = made.takes;
  const { speaker, usage, firstTextAt, attempts, failures } = made;
  const { state } = [last as ReplyEvent].reduce(fold, emptyReply);
  const { provider, model } = reply.facts;
  const isFallback = speaker.provider !== provider || speaker.model !== model;
  const facts = {
    ...reply.facts,
    ...speaker,
    thought: thought || undefined,
    usage,
    problem: last.event === "problem" ? last.data : undefined,
    firstTextMs: firstTextAt === undefined ? undefined : Math.round(firstTextAt - started),
    totalMs: Math.round(performance.now() - started),
    trace: made.trace,
    attempts: attempts > 1 ? attempts : undefined,
    failures: failures.length > 0 ? failures : undefined,
    insteadOf: isFallback ? { provider, model } : undefined,
    carry: made.carry,
  };
  const own = usage && !usage.estimated ? usage.output - (usage.thought ?? 0) : null;
  const reported = own === null || begun.reported === null ? null : begun.reported + own;
  hub.commitAlong(head.reply, () => {
    conversations.finishReply({ id: head.reply, state, pieces: piecesOf(begun.text + text), reported, facts });
    calls.end(head.reply, state, facts.firstTextMs ?? null, usage ?? null, Date.now());
    return undefined;
  });
  hub.publish(head.reply, ...(usage ? [{ event: "usage", data: usage } as const] : []), last);
  if (isPassing) setTimeout(() => letPass(boot, head.conversation), passes).unref();
}

/** Deletes what passed through. */
function letPass({ conversations, removal, log, isClosing }: Home, conversation: string): void {
  if (isClosing()) return;
  try {
    conversations.leave(conversation, Date.now());
    void removal.start();
  } catch (error) {
    log.error({ error }, "what passed through could not be deleted yet; it is tried again within an hour");
  }
}

/** Writes that a reply failed, with what is safe to write: for when its own end could not be written. */
function storeFailure({ conversations }: Home, { reply, begun }: Asking, failure: Problem): void {
  const { id, facts } = reply;
  const pieces = piecesOf(begun.text);
  conversations.finishReply({ id, state: "failed", pieces, reported: null, facts: { ...facts, problem: failure } });
}

function nothingOf({ reply: { facts } }: Asking): Omit<Made, "takes"> {
  const speaker = { provider: facts.provider, model: facts.model };
  return { speaker, status: null, attempts: 0, failures: [] };
}

function lost(failure: Problem): Made["takes"][0] {
  return { text: "", thought: "", last: { event: "problem", data: failure } };
}
