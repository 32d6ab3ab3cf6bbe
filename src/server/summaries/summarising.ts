import { LRUCache } from "lru-cache";
import { longestSummary, mostOfSummary } from "@/core/context/sum-up";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import { type Problem, problem } from "@/core/problem/problem";
import type { LastEvent } from "@/core/reply/events";
import type { HasApps } from "../apps/app-store";
import { holdForCalls, mostOf } from "../apps/budget";
import type { StoredSummary } from "../conversations/summary-store";
import type { HasDatabase } from "../database/database";
import type { HasPacking } from "../database/slices";
import type { Work } from "../database/work";
import type { HasDispatches } from "../dispatches/dispatch-store";
import { keepingSink, type MadeFor } from "../dispatches/keeping-sink";
import type { HasEnd } from "../ground/ending";
import type { HasLog } from "../ground/log";
import { Refusal, refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import { make } from "../making/make";
import { plainOrder } from "../making/order";
import type { HasMeans, Made, Making, Sink } from "../making/types";
import type { HasReservations } from "../spend/reservations";
import type { HasSpend } from "../spend/spend-store";
import { type NextStepNeeds, nextStep, type Step } from "./next-step";
import type { SummaryStanding, WantedSummary } from "./types";

/** What of the process is used here. */
export type SummarisingNeeds = NextStepNeeds &
  HasApps &
  HasChanges &
  HasDatabase &
  HasDispatches &
  HasEnd &
  HasLog &
  HasMeans &
  HasPacking &
  HasReservations &
  HasSpend;

/** The making of the summaries of one conversation. */
interface Run {
  app: string;
  /** What was wanted meanwhile, the last for each model whose memory it is. */
  next: Map<string, WantedSummary>;
  /** The last turn that what is made now is going to cover. */
  turn: number | undefined;
  making: Making | undefined;
  /** The summary that what is made now goes on from, and whether its words were put right since. */
  before: string | null;
  isOutdated: boolean;
  isStopped: boolean;
}

/** Failures that are kept, of the conversations that failed last. */
const mostFailures = 1_000;

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

/**
 * Has the older turns of lines summed up, after the replies that make them older: nobody waits for it. Of a conversation
 * one summary is made at a time.
 */
export class Summarising {
  private readonly runs = new Map<string, Run>();
  private readonly failures = new LRUCache<string, Problem>({ max: mostFailures });
  private isClosed = false;

  constructor(private readonly home: () => SummarisingNeeds) {}

  /** Has what is older of a line summed up where enough of it is not yet; comes back at once. */
  want(wanted: WantedSummary): void {
    if (this.home().isClosing() || wanted.content.memory.kind !== "summary") return;
    const run = this.runs.get(wanted.conversation);
    if (run) run.next.set(JSON.stringify(wanted.content.memory.apart ? wanted.by : null), wanted);
    else void this.run(wanted, undefined);
  }

  /**
   * Has all that is older of a line summed up anew; comes back at once.
   * @throws {Refusal} `conflict` where there is nothing to sum up, or it is being done
   */
  wantAnew(wanted: WantedSummary): void {
    const { memory } = wanted.content;
    if (memory.kind !== "summary")
      refuse("conflict", "This app's memory carries no summary.", { advice: "Choose one in the Memory station." });
    if (this.runs.has(wanted.conversation)) refuse("conflict", "A summary of this conversation is being made.");
    const first = nextStep(this.home(), wanted, null);
    if (!first) refuse("conflict", `Nothing is older yet than the newest ${memory.turns} turns.`);
    if (first.kind === "refused") throw new Refusal(first.problem);
    void this.run(wanted, null);
  }

  /** Null where nothing is made, and nothing failed last. */
  standing(conversation: string): SummaryStanding | null {
    const turn = this.runs.get(conversation)?.turn;
    if (turn !== undefined) return { state: "making", turn };
    const failure = this.failures.get(conversation);
    return failure ? { state: "failed", problem: failure } : null;
  }

  /** Has what is being made on from a summary made over: its words were put right. */
  corrected({ id, conversation }: { id: string; conversation: string }): void {
    const run = this.runs.get(conversation);
    if (run?.before !== id) return;
    run.isOutdated = true;
    void run.making?.stop(stopped);
  }

  /** Ends what is made of a conversation; resolves when the provider's connection is closed. */
  async stop(conversation: string): Promise<void> {
    const run = this.runs.get(conversation);
    if (!run) return;
    run.isStopped = true;
    run.next.clear();
    await run.making?.stop(stopped);
  }

  /** Ends what is made of all conversations of an app. */
  async stopOf(app: string): Promise<void> {
    const ofApp = [...this.runs].filter(([, run]) => run.app === app);
    await Promise.all(ofApp.map(([conversation]) => this.stop(conversation)));
  }

  /** Ends all of it in good order. */
  async leave(): Promise<void> {
    await Promise.all([...this.runs.keys()].map((conversation) => this.stop(conversation)));
  }

  /** Writes nothing from here on. */
  close(): void {
    this.isClosed = true;
    void this.leave();
  }

  /** Makes summaries until none is due. It never throws. */
  private async run(wanted: WantedSummary, on: null | undefined): Promise<void> {
    const { conversation } = wanted;
    const run: Run = {
      app: wanted.app.id,
      next: new Map(),
      turn: undefined,
      making: undefined,
      before: null,
      isOutdated: false,
      isStopped: false,
    };
    this.runs.set(conversation, run);
    this.failures.delete(conversation);
    try {
      await this.sumUp(run, wanted, on);
      for (let next = taken(run.next); next && !run.isStopped; next = taken(run.next))
        await this.sumUp(run, next, undefined);
    } catch (error) {
      if (this.isClosed) return;
      if (error instanceof Refusal) this.failures.set(conversation, error.problem);
      else {
        this.home().log.error({ error, conversation }, "a summary could not be made");
        this.failures.set(conversation, problem("internal", "The summary could not be made; the terminal says why."));
      }
    } finally {
      const wasTold = run.turn !== undefined || this.failures.has(conversation);
      this.runs.delete(conversation);
      if (wasTold && !this.isClosed) this.home().changes.tell(conversation);
    }
  }

  /** Sums up a line, one stretch of it after another. @throws {Refusal} where one could not be made */
  private async sumUp(run: Run, wanted: WantedSummary, from: null | undefined): Promise<void> {
    let on: StoredSummary | null | undefined = from;
    while (!run.isStopped && !this.isClosed) {
      const step = nextStep(this.home(), wanted, on);
      if (!step) return;
      if (step.kind === "refused") throw new Refusal(step.problem);
      run.turn = step.covers.turn;
      run.before = step.before;
      run.isOutdated = false;
      this.home().changes.tell(wanted.conversation);
      const came = await this.made(run, wanted, step);
      if (run.isOutdated) {
        on = on && this.home().summaries.byId(on.id);
        continue;
      }
      const kept = this.keep(wanted, step, came);
      if (!kept) return;
      on = kept;
    }
  }

  /** Has a model sum up. @throws {Refusal} `over-limit` where the day has no money left for it */
  private async made(
    run: Run,
    { app, origin, revision, content, conversation }: WantedSummary,
    step: Step,
  ): Promise<{ id: string; made: Made }> {
    const home = this.home();
    const { connection, model, text, tokens, covers } = step;
    const maxOutput = mostOfSummary(model.window);
    const most = mostOf([model], tokens, maxOutput, 1);
    const [settle] = holdForCalls(home, app, [most], model.price.currency, Date.now(), true);
    try {
      const { making, sink } = this.sink({
        purpose: "summary",
        owner: conversation,
        covers: covers.message,
        conversation,
        spentOn: { app: app.id, revision: revision.number, content: revision.hash, origin },
      });
      run.making = make(
        plainOrder({
          rank: "job",
          speaker: { connection, model },
          messages: [{ role: "visitor", pieces: piecesOf(text) }],
          settings: { maxOutput },
          guards: content.guards,
          own: [content.prompt],
        }),
        sink,
        home.means,
      );
      if (run.isStopped) void run.making.stop(stopped);
      return { id: making, made: await run.making.made };
    } finally {
      settle?.();
    }
  }

  /** Keeps the dispatches; the words are wanted when they are whole. Nothing is written once it is closed. */
  private sink(of: MadeFor): { making: string; sink: Sink } {
    const home = this.home();
    const commit = (work: Work) => {
      if (!this.isClosed) home.database.transaction(work).immediate()?.();
    };
    const { making, sink } = keepingSink(home, of, commit);
    const begin: Sink["begin"] = (dispatch) => {
      if (!this.isClosed) sink.begin(dispatch);
    };
    return { making, sink: { ...sink, begin } };
  }

  /** Stores what came of it, unless what it is about was deleted meanwhile. @throws {Refusal} where it is no summary */
  private keep(
    { conversation }: WantedSummary,
    { model, covers }: Step,
    { id: making, made }: { id: string; made: Made },
  ): StoredSummary | undefined {
    const { summaries, conversations, messages, database } = this.home();
    const [{ last }] = made.takes;
    const text = textOf(made.takes[0]);
    if (last.event === "problem") throw new Refusal(last.data);
    if (last.data.reason === "stopped" || this.isClosed) return undefined;
    const words = text.trim().slice(0, longestSummary);
    if (last.data.reason === "refused" || words === "")
      refuse("empty", `${model.name} summed up nothing.`, {
        advice: "Change its prompt, or let another model sum up.",
      });
    const { usage, paidBefore, speaker } = made;
    const isPaid = usage !== undefined || paidBefore > 0;
    const price = isPaid
      ? { amount: (usage?.price ?? 0) + paidBefore, currency: usage?.currency ?? model.price.currency }
      : null;
    return database
      .transaction(() => {
        if (!conversations.byId(conversation) || !messages.message(covers.message)) return undefined;
        const isCut = last.data.reason === "length";
        const id = summaries.add({
          ...covers,
          conversation,
          text: words,
          isCut,
          maker: speaker,
          price,
          making,
          at: Date.now(),
        });
        return summaries.byId(id);
      })
      .immediate();
  }
}

/** The first of some, which is then no more among them. */
function taken(some: Map<string, WantedSummary>): WantedSummary | undefined {
  const [first] = some;
  if (first) some.delete(first[0]);
  return first?.[1];
}

/** A parameter that has `summarising`. */
export interface HasSummarising {
  /** Makes summaries. */
  summarising: Summarising;
}
