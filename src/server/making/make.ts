import PQueue from "p-queue";
import { joined, type ToolPiece, withPictures } from "@/core/conversation/pieces";
import { addUp, type Caught } from "@/core/guards/guard";
import { guardedWhole } from "@/core/guards/guarded-text";
import type { Masks } from "@/core/guards/masks";
import { type Problem, problem } from "@/core/problem/problem";
import type { LastEvent, Usage } from "@/core/reply/events";
import type { AskedCall } from "@/core/tools/calls";
import type { Typed } from "@/core/typed/reading";
import { askedToMend } from "@/core/typed/schema";
import { Attempt } from "./attempt";
import { citesNothing } from "./citing";
import { Judging, refused } from "./judging";
import { stepAfter } from "./retry";
import type {
  Attempted,
  AttemptedTake,
  CitedIn,
  Exchange,
  Made,
  Making,
  Means,
  Order,
  ReadyContext,
  Sink,
  Speaker,
  Take,
  ToolAnswer,
} from "./types";

/**
 * Has words of a model made, in rounds of attempts. For each speaker what it is to be sent is gathered, encoded, sent,
 * and its answer read, as often as it takes for one attempt to go through: that is a round. Where it asks for tools,
 * they are called, and the next round goes out with what they said. What comes goes to the sink.
 */
export function make(order: Order, sink: Sink, means: Means): Making {
  const run = new Run(order, sink, means);
  return { made: run.made(), stop: (last) => run.stop(last) };
}

class Run {
  private readonly failures: Made["failures"] = [];
  private readonly stopped = new AbortController();
  private attempt: Attempt | undefined;
  /** What it ends with, once it was stopped. */
  private halted: LastEvent | undefined;
  private count = 0;
  /** What all attempts cost so far, and what those used that a round ended with. */
  private paid = 0;
  private readonly usages: Usage[] = [];
  /** What was said in the rounds that went through. */
  private exchange: Exchange = { pieces: [], carry: [] };
  private cited: CitedIn = citesNothing;
  private thought = "";
  private firstTextAt: number | undefined;
  private readonly caught: Caught[] = [];
  /** What was masked in what was sent last. */
  private masks: Masks | undefined;
  private readonly judging: Judging;

  constructor(
    private readonly order: Order,
    private readonly sink: Sink,
    private readonly means: Means,
  ) {
    this.judging = new Judging(order.guards, sink, this.stopped.signal, () => this.halted);
  }

  async made(): Promise<Made> {
    try {
      const { guards } = this.order;
      this.caught.push(...(guards?.caught ?? []));
      if (guards?.refusal !== undefined) return this.outcome(this.answeredWith(guards.refusal), 0);
      const firstRound = this.order.tools?.firstRound ?? 1;
      let { speakers } = this.order;
      for (let round = firstRound; ; round += 1) {
        const { speaker, attempted: unjudged } = await this.attempted(round, speakers);
        const attempted = await this.judging.judged(unjudged);
        this.firstTextAt ??= attempted.firstTextAt;
        if (attempted.usage) this.usages.push(attempted.usage);
        const calls = this.callsAfter(attempted, round);
        if (calls.length > 0) await this.answer(attempted, calls, round);
        else if (!this.mends(attempted, speaker)) return this.outcome(attempted, round - firstRound);
        if (this.halted) return this.outcome(silent(attempted, this.halted), round - firstRound + 1);
        // whoever said something goes on saying it
        speakers = [speaker];
      }
    } catch (error) {
      await this.attempt?.abort();
      throw error;
    }
  }

  /** What stands for an attempt where the app answers without asking anybody. */
  private answeredWith(says: string): Attempted {
    const attempted = this.ended(this.order.speakers[0], refused);
    const takes = Array.from({ length: this.order.takes }, (_, take): AttemptedTake => {
      this.sink.say(take, { event: "text", data: { text: says } });
      return { ...attempted.takes[0], text: says };
    });
    return { ...attempted, takes: takes as [AttemptedTake, ...AttemptedTake[]] };
  }

  async stop(last: LastEvent): Promise<void> {
    this.halted ??= last;
    this.stopped.abort();
    await this.attempt?.stop(this.halted);
  }

  /** The calls that a round ends with, where they may be made: then another one follows. */
  private callsAfter({ takes: [{ calls, last }] }: Attempted, round: number): AskedCall[] {
    const { tools } = this.order;
    if (!tools || this.halted || !isWhole(last)) return [];
    return round - tools.firstRound < tools.rounds ? calls : [];
  }

  /** Whether what was said does not fit its schema, and is asked for once more: it is taken back then. */
  private mends({ takes: [{ text, thought, caught, last }] }: Attempted, speaker: Speaker): boolean {
    const { form } = this.order;
    if (!form?.mends || this.halted || this.exchange.unfit || !isSaid(last)) return false;
    const typed = form.read(form.begun + text);
    if (typed.ok) return false;
    this.thought += thought;
    this.caught.push(...caught);
    this.exchange = { ...this.exchange, unfit: { text, words: askedToMend(typed.wrong) } };
    this.announce(0, speaker, unfit(typed.wrong), true);
    return true;
  }

  /** Calls the tools that a round asked for, as many at once as may be, and adds the round to the exchange. */
  private async answer({ takes: [take], carry }: Attempted, calls: AskedCall[], round: number): Promise<void> {
    const { answerers, together, isSingle } = this.order.tools ?? {};
    const asked = calls.map((call): ToolPiece => {
      const by = answerers?.get(call.name);
      return { kind: "tool", round, ...call, ...(by && { by }), outcome: "waiting" };
    });
    for (const piece of asked) this.tell(piece);
    const queue = new PQueue({ concurrency: together ?? 1 });
    const answered = await Promise.all(
      asked.map((piece, at) => {
        if (isSingle && at > 0) return this.refusedFurther(piece);
        return piece.by === "caller"
          ? this.answered(piece)
          : queue.add(() => this.answered(piece), { throwOnTimeout: true });
      }),
    );
    this.thought += take.thought;
    this.cited = take.cited;
    this.caught.push(...take.caught);
    this.exchange = {
      ...this.exchange,
      pieces: joined(this.exchange.pieces, [...withPictures(take.text, take.pictures), ...answered]),
      carry: carry === undefined ? this.exchange.carry : [...this.exchange.carry, { round, value: carry }],
    };
  }

  /** One call with its answer, which is told. */
  private async answered(piece: ToolPiece): Promise<ToolPiece> {
    let started = performance.now();
    let asks: true | undefined;
    const { outcome, result } = await this.called(piece, (waitsFor) => {
      if (waitsFor === "leave") asks = true;
      // how long a person takes is no time of the tool's
      if (waitsFor === undefined) started = performance.now();
      this.tell({ ...piece, ...(asks && { asks }), ...(waitsFor && { waitsFor }) });
    });
    const ms = Math.round(performance.now() - started);
    const done: ToolPiece = {
      ...piece,
      ...(asks && { asks }),
      outcome,
      ...(result === undefined ? {} : { result }),
      ms,
    };
    this.tell(done);
    return done;
  }

  /** A call beyond the one that a round may have. */
  private refusedFurther(piece: ToolPiece): ToolPiece {
    const result = "It was not called: ask for one call at a time.";
    const refused: ToolPiece = { ...piece, outcome: "refused", result };
    this.tell(refused);
    return refused;
  }

  /** Calls one tool, once it is written that it was asked for; not once it was stopped. */
  private async called(
    { call, name, arguments: given }: ToolPiece,
    waits: Parameters<NonNullable<Order["tools"]>["call"]>[2],
  ): Promise<ToolAnswer> {
    const { signal } = this.stopped;
    const { tools } = this.order;
    const aborted = abortOf(signal);
    await Promise.race([this.sink.settled(), aborted.promise]);
    aborted.forget();
    if (signal.aborted || !tools) return { outcome: "stopped" };
    const answer = await tools.call({ call, name, arguments: given }, signal, waits);
    if (signal.aborted && answer.outcome !== "answered") return { outcome: "stopped" };
    return answer.result === undefined ? answer : { ...answer, result: this.guardedResult(answer.result) };
  }

  /** What a tool said, past the guards: it is shown, too. */
  private guardedResult(result: string): string {
    const { shown = [] } = this.order.guards ?? {};
    if (shown.length === 0) return result;
    const { text, refusal, caught } = guardedWhole(result, shown, this.masks?.isPutBack);
    this.caught.push(...caught);
    return refusal === undefined ? text : heldBackResult;
  }

  private tell({ kind: _kind, ...data }: ToolPiece): void {
    this.sink.say(0, { event: "tool", data });
  }

  /** All rounds together. @param rounds that went through before the last */
  private outcome({ takes, carry, ...attempted }: Attempted, rounds: number): Made {
    const { pieces, carry: before } = this.exchange;
    const round = (this.order.tools?.firstRound ?? 1) + rounds;
    const all = takes.map((take): Take => {
      const { text, thought, cited } = take;
      const last = this.ending(take);
      const said = joined(pieces, withPictures(this.kept(text, last), take.pictures));
      const typed = this.typed(text, last);
      if (typed?.ok) this.sink.say(0, { event: "data", data: { value: typed.value } });
      return {
        pieces: typed?.ok ? [...said, { kind: "data", value: typed.value }] : said,
        thought: this.thought + thought,
        cited,
        caught: addUp([...this.caught, ...take.caught]),
        last: typed?.ok === false ? { event: "problem", data: unfit(typed.wrong) } : last,
      };
    });
    return {
      ...attempted,
      usage: sumOf(this.usages, attempted.usage),
      takes: all as [Take, ...Take[]],
      attempts: this.count,
      rounds,
      paidBefore: Math.round((this.paid - (attempted.usage?.price ?? 0)) * 1e6) / 1e6,
      failures: this.failures,
      firstTextAt: this.firstTextAt,
      carry: carry === undefined ? [...before] : [...before, { round, value: carry }],
      ...(this.exchange.unfit ? { isMended: true as const } : {}),
    };
  }

  /** A text, or what was taken back, where nothing came in its place: it is said again then. */
  private kept(text: string, last: LastEvent): string {
    const { unfit } = this.exchange;
    if (text !== "" || !unfit || last.event === "end") return text;
    this.sink.say(0, { event: "text", data: { text: unfit.text } });
    return unfit.text;
  }

  /** What a reply is read as that has come to its end, where it has to fit a schema. */
  private typed(text: string, last: LastEvent): Typed | undefined {
    const { form } = this.order;
    return form && isSaid(last) ? form.read(form.begun + text) : undefined;
  }

  /** How a take ends: one that asks for tools, and may not, or not again, ends as a problem where that is all it says. */
  private ending({ text, calls, last }: AttemptedTake): LastEvent {
    if (calls.length === 0 || !isWhole(last)) return last;
    const { tools } = this.order;
    const names = [...new Set(calls.map(({ name }) => name))].join(", ");
    if (tools) {
      const detail = `After ${tools.rounds} rounds of calls the model asks for ${names} once more.`;
      return { event: "problem", data: problem("too-many-rounds", detail) };
    }
    if (text.trim() !== "") return last;
    return { event: "problem", data: problem("only-tools", `The model asks for ${names}, and says nothing else.`) };
  }

  /** The attempt that a round ends with: one that went well, or that said something, or the last there was. */
  private async attempted(
    round: number,
    speakers: readonly [Speaker, ...Speaker[]],
  ): Promise<{ speaker: Speaker; attempted: Attempted }> {
    let last: { speaker: Speaker; attempted: Attempted } | undefined;
    for (const speaker of speakers) {
      if (last) this.announce(0, speaker);
      const context = await this.order.gather(speaker, this.exchange, this.stopped.signal);
      if (this.halted) return { speaker, attempted: this.ended(speaker) };
      const failure = context.kind === "refused" ? context.problem : this.unpaid(speaker, context, round);
      if (context.kind === "refused" || failure) {
        const attempted = this.ended(speaker, failure && { event: "problem", data: failure });
        last = { speaker, attempted };
        if (failure) this.fail(speaker, failure);
      } else {
        last = { speaker, attempted: await this.tried(speaker, context, round) };
        if (isOver(last.attempted) || this.halted) return last;
      }
    }
    return last ?? { speaker: speakers[0], attempted: this.ended(speakers[0]) };
  }

  /** Why there is no money for a further round, if there is none: that for the first is held by whoever asks. */
  private unpaid(speaker: Speaker, context: ReadyContext, round: number): Problem | undefined {
    const isFurther = round > (this.order.tools?.firstRound ?? 1);
    return isFurther ? this.order.hold?.(speaker, context) : undefined;
  }

  /** What came of a speaker, asked as often as makes sense. */
  private async tried(speaker: Speaker, context: ReadyContext, round: number): Promise<Attempted> {
    this.masks = context.masks;
    const { connection } = speaker;
    for (let tries = 0; ; tries++) {
      const attempted = await this.sent(speaker, context, round);
      const { last } = attempted.takes[0];
      if (isOver(attempted) || this.halted || last.event === "end") return attempted;
      this.fail(speaker, last.data);
      const hasToken = attempted.status !== null && this.means.hasToken(connection);
      const chance = Math.random();
      const step = stepAfter(last.data, { tries, retries: connection.retries, hasToken, chance });
      if (step.kind === "give-up") return attempted;
      if (step.kind === "renew") this.means.forget(connection);
      const isPlayed = this.order.traffic?.by.isAlone && this.order.traffic.by.pace === "at-once";
      const after = step.kind === "again" && !isPlayed ? step.after : 0;
      this.announce(after, speaker);
      if (!(await this.waited(after))) return this.ended(speaker);
    }
  }

  /** One attempt, once the provider has room for it. */
  private async sent(speaker: Speaker, context: ReadyContext, round: number): Promise<Attempted> {
    const { connection } = speaker;
    const most = connection.atOnce;
    const full = () =>
      this.announce(
        0,
        speaker,
        problem("at-capacity", `${connection.name} takes ${most} calls at once, and as many are under way.`),
      );
    const { traffic, rank } = this.order;
    // where nobody is called there is no place to wait for
    const leave = traffic?.by.isAlone
      ? () => {}
      : await this.means.gate.enter(connection.id, most, rank, full, this.stopped.signal);
    if (!leave) return this.ended(speaker);
    try {
      this.count += 1;
      const said = this.exchange.pieces.reduce(
        (sum, piece) => sum + (piece.kind === "text" ? piece.text.length : 0),
        0,
      );
      const place = { round, attempt: this.count, begun: this.order.begun + said, cited: this.cited };
      this.judging.begin();
      this.attempt = new Attempt(this.order, this.judging.sink, this.means, speaker, context, place);
      const attempted = await this.attempt.run();
      this.paid += attempted.usage?.price ?? 0;
      return attempted;
    } finally {
      leave();
    }
  }

  private fail({ connection, model }: Speaker, failure: Problem): void {
    this.failures.push({ provider: connection.slug, model: model.name, problem: failure });
  }

  /** Tells what comes next and why. */
  private announce(
    seconds: number,
    { connection, model }: Speaker,
    because = this.failures.at(-1)?.problem,
    isAnew = false,
  ): void {
    if (!because) return;
    const after = Math.round(seconds * 10) / 10;
    const next = { attempt: this.count + 1, provider: connection.slug, model: model.name, after, because };
    this.sink.next(isAnew ? { ...next, anew: true } : next);
  }

  /** Waits; false where it was stopped in between. */
  private async waited(seconds: number): Promise<boolean> {
    const { signal } = this.stopped;
    if (seconds > 0 && !signal.aborted) {
      const aborted = abortOf(signal);
      let timer: NodeJS.Timeout | undefined;
      const passed = new Promise<void>((resolve) => {
        timer = setTimeout(resolve, seconds * 1000);
      });
      await Promise.race([passed, aborted.promise]);
      clearTimeout(timer);
      aborted.forget();
    }
    return !signal.aborted;
  }

  /** What stands for an attempt where none was made. */
  private ended({ connection, model }: Speaker, last = this.halted ?? stopped): Attempted {
    const speaker = { provider: connection.slug, model: model.name };
    return {
      speaker,
      takes: [{ text: "", thought: "", pictures: [], calls: [], cited: this.cited, caught: [], last }],
      status: null,
    };
  }
}

/** What stands in the place of what a tool said that a guard refuses. */
const heldBackResult = "What it said was held back.";

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

/** Whether all was said that was to be said. */
function isSaid(last: LastEvent): boolean {
  return isWhole(last) || (last.event === "end" && last.data.reason === "stop-word");
}

function unfit(wrong: string): Problem {
  return problem("unfit", `The reply does not fit its schema: ${wrong}.`);
}

/** Whether an answer came to its own end: calls of one that was cut are not whole themselves. */
function isWhole(last: LastEvent): boolean {
  return last.event === "end" && (last.data.reason === "tools" || last.data.reason === "complete");
}

/** An attempt whose words stand in the exchange already. */
function silent(attempted: Attempted, last: LastEvent): Attempted {
  const { cited } = attempted.takes[0];
  return {
    ...attempted,
    takes: [{ text: "", thought: "", pictures: [], calls: [], cited, caught: [], last }],
    carry: undefined,
  };
}

/** Whether an attempt is what its round comes to: it went well, or somebody has read of it already. */
function isOver({ takes }: Attempted): boolean {
  return takes[0].last.event === "end" || takes.some(({ text, thought }) => text !== "" || thought !== "");
}

/** What the rounds used together; the price is that of the last alone, if there is one. */
function sumOf([first, ...more]: readonly Usage[], last: Usage | undefined): Usage | undefined {
  if (!first) return undefined;
  const sum = { ...first, price: last?.price ?? 0 };
  for (const each of more) {
    sum.input += each.input;
    sum.output += each.output;
    sum.estimated ||= each.estimated;
    for (const name of ["cachedInput", "cacheWrite", "thought"] as const)
      if (each[name] !== undefined) sum[name] = (sum[name] ?? 0) + each[name];
  }
  return sum;
}

/** A promise that is kept when something is aborted; `forget` lets go of it. */
function abortOf(signal: AbortSignal): { promise: Promise<void>; forget: () => void } {
  let forget = () => {};
  const promise = new Promise<void>((resolve) => {
    const tell = () => resolve();
    if (signal.aborted) tell();
    else signal.addEventListener("abort", tell, { once: true });
    forget = () => signal.removeEventListener("abort", tell);
  });
  return { promise, forget };
}
