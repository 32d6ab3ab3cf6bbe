import { judgePicture } from "@/core/pictures/judging";
import type { LastEvent, SaidEvent, Usage } from "@/core/reply/events";
import { tokensOf } from "@/core/tokens/calibration";
import { countsOf, countsOfPieces, type Holding, noHolding, together } from "@/core/tokens/counts";
import { priceOf } from "@/core/tokens/price";
import { GrowingData } from "@/core/typed/reading";
import type { AnswerHead } from "@/core/wire/decode";
import { withKeyAdvice } from "../exchange/credentials";
import { alwaysSent } from "../exchange/exchange";
import { newId } from "../ground/id";
import { Scrubber } from "../security/scrub";
import { Calling } from "./calling";
import { Citing } from "./citing";
import { Hearing } from "./hearing";
import { waitsForJudges } from "./judging";
import type { Attempted, CitedIn, Counted, EndedDispatch, Means, Order, ReadyContext, Sink, Speaker } from "./types";

/** Where an attempt stands in its making: both counted from 1. */
export interface AttemptPlace {
  round: number;
  attempt: number;
  /** Characters that the reply had before, and what the rounds before cited. */
  begun: number;
  cited: CitedIn;
}

/** One attempt, which is one dispatch: a call, and the hearing of its answer. What is said goes to the sink as it comes. */
export class Attempt {
  private readonly id = newId("dis");
  private readonly started = performance.now();
  private readonly calling: Calling;
  private readonly citing: Citing;
  /** Reads a reply that has to fit a schema as it comes. */
  private readonly growing: GrowingData | undefined;
  private secrets: readonly string[] = [];
  private hearing: Hearing;
  private head: AnswerHead | undefined;
  private isOver = false;
  /** Bytes that are not kept yet, where guards could still find something in what they say. */
  private heldBytes: { bytes: Buffer; at: number }[] = [];
  private done: (attempted: Attempted) => void = () => {};
  private crashed: (error: unknown) => void = () => {};

  constructor(
    private readonly order: Order,
    private readonly sink: Sink,
    private readonly means: Means,
    private readonly speaker: Speaker,
    private readonly context: ReadyContext,
    private readonly place: AttemptPlace,
  ) {
    this.calling = new Calling(order, speaker, context, means, place.round);
    this.citing = new Citing(context.passages, place.cited);
    this.growing = order.form && new GrowingData(order.form.begun);
    this.hearing = this.hearingWith([]);
  }

  /** Makes the call; resolves when it has ended, rejects only over an error of our own. */
  run(): Promise<Attempted> {
    return new Promise((resolve, reject) => {
      this.done = resolve;
      this.crashed = reject;
      this.send().catch(reject);
    });
  }

  /** Ends it because no more is wanted, with what it then ends with. */
  async stop(last: LastEvent): Promise<void> {
    await this.calling.abort();
    this.end(last);
  }

  /** Ends it without another word. */
  async abort(): Promise<void> {
    this.isOver = true;
    await this.calling.abort();
  }

  private hearingWith(secrets: readonly string[]): Hearing {
    const { profile } = this.speaker.connection;
    const { round, begun } = this.place;
    return new Hearing({
      profile,
      takes: this.order.takes,
      round,
      begun,
      secrets,
      guards: this.order.guards?.shown ?? [],
      masks: this.context.masks,
      begunEnd: round === (this.order.tools?.firstRound ?? 1) ? this.order.begunEnd : undefined,
      say: (take, event) => this.say(take, event),
      keep: (bytes) => this.keep(bytes),
      leaveOutBytes: () => this.sink.leaveOutBytes(this.id),
    });
  }

  /** Keeps a picture that came. @returns why it can't be */
  private keep(bytes: Uint8Array) {
    const judged = judgePicture(bytes);
    if (judged.kind === "problem") return judged.problem.detail;
    const { hash, type, width, height } = this.means.files.keep(judged, Date.now());
    return { file: hash, type, width, height, isMade: true } as const;
  }

  /** Says something, and then what that cites. */
  private say(take: number, event: SaidEvent): void {
    this.sink.say(take, event);
    if (event.event !== "text") return;
    const value = this.growing?.add(event.data.text);
    if (value !== undefined) this.sink.say(take, { event: "data", data: { value } });
    for (const data of this.citing.read(take, event.data.text)) this.sink.say(take, { event: "source", data });
  }

  private async send(): Promise<void> {
    const { connection, model } = this.speaker;
    const { round, attempt } = this.place;
    const shown = this.calling.shown();
    const { method, url, headers, body = "" } = shown;
    this.sink.begin({
      id: this.id,
      round,
      attempt,
      providerId: connection.id,
      provider: connection.slug,
      model: model.name,
      profileText: connection.profileText,
      request: { method, url, headers: { ...alwaysSent, ...headers }, body },
      ledger: this.context.ledger,
      prices: model.price,
      startedAt: Date.now(),
    });
    await this.calling.send(shown, {
      resolved: (secrets) => {
        this.secrets = secrets;
        this.hearing = this.hearingWith(secrets);
      },
      head: (head) => {
        this.head = { ...head, streamed: this.calling.streams };
        this.hearing.begin(this.head);
      },
      bytes: (bytes) =>
        this.guard(() => {
          if (this.holdsBytes) this.heldBytes.push({ bytes, at: this.elapsed() });
          else this.sink.bytes(this.id, bytes, this.elapsed());
          this.endWith(this.hearing.feed(bytes));
        }),
      close: (isWhole) => this.guard(() => this.endWith(this.hearing.close(isWhole))),
      fail: (failure) => this.guard(() => this.end({ event: "problem", data: failure })),
    });
  }

  /** Does what a call tells; an error of our own ends the making, and the call with it. */
  private guard(work: () => void): void {
    if (this.isOver) return;
    try {
      work();
    } catch (error) {
      this.isOver = true;
      void this.calling.abort();
      this.crashed(error);
    }
  }

  private endWith(last: LastEvent | undefined): void {
    if (last) this.end(last);
  }

  private end(given: LastEvent): void {
    if (this.isOver) return;
    this.isOver = true;
    const { connection, model } = this.speaker;
    const { hearing, head } = this;
    hearing.release();
    const outcome = hearing.hidden(
      given.event === "end" ? given : { ...given, data: withKeyAdvice(given.data, connection.credential) },
    );
    if (hearing.isCut) this.calling.forgo();
    this.calling.leave();
    const usage = this.usage();
    const ended: EndedDispatch = {
      id: this.id,
      status: head?.status ?? null,
      headers: Object.fromEntries(
        Object.entries(head?.headers ?? {}).map(([name, value]) => [name, Scrubber.text(value, this.secrets)]),
      ),
      outcome,
      usage,
      counted: this.counted(),
      notes: hearing.notes,
      version: hearing.version,
      endedAt: Date.now(),
    };
    const waits = waitsForJudges(this.order.guards) && hearing.said !== "";
    if (!waits) this.settle(ended, true);
    this.done({
      speaker: { provider: connection.slug, model: model.name },
      takes: hearing.takes(outcome, (take) => this.citing.of(take)),
      status: head?.status ?? null,
      counts: hearing.counts,
      usage,
      firstTextAt: hearing.trace.firstAt,
      trace: hearing.trace.parts,
      // what an API wants back holds what it said
      carry: hearing.isCut ? undefined : hearing.carry,
      version: hearing.version,
      settle: waits ? (isShown) => this.settle(ended, isShown) : undefined,
    });
  }

  /** Keeps how it ended, and the bytes that were held, where nothing of what they say is held back. */
  private settle(ended: EndedDispatch, isShown: boolean): void {
    if (!isShown) this.sink.leaveOutBytes(this.id);
    else if (!this.hearing.isCut) for (const { bytes, at } of this.heldBytes) this.sink.bytes(this.id, bytes, at);
    this.heldBytes = [];
    const guarded = ended.notes.some(({ kind }) => kind === "guarded");
    this.sink.end(isShown || guarded ? ended : { ...ended, notes: [...ended.notes, { kind: "guarded" }] });
  }

  /** Whether bytes wait for their end: text that is refused or masked later stands in them. */
  private get holdsBytes(): boolean {
    const { shown = [] } = this.order.guards ?? {};
    return waitsForJudges(this.order.guards) || shown.some(({ guard }) => guard.does !== "mark");
  }

  /** What the provider counted: what was sent, where that was accounted for, and what it said, where that is text alone. */
  private counted(): Counted[] {
    const { input, output } = this.hearing.counts;
    const sent = this.context.ledger?.holding;
    if (!sent || this.calling.isPlayed) return [];
    return [
      ...(input === undefined ? [] : [{ holding: sent, tokens: input }]),
      ...(output === undefined || this.hearing.asked !== "" ? [] : [{ holding: this.said(), tokens: output }]),
    ];
  }

  /** What the call cost: as reported, or estimated from what was sent and read; nothing where nothing was read. */
  private usage(): Usage | undefined {
    const { price, calibration } = this.speaker.model;
    const { input, output } = this.hearing.counts;
    const isSilent = this.hearing.said === "" && this.hearing.asked === "";
    if (input === undefined && output === undefined && isSilent) return undefined;
    const counts = {
      ...this.hearing.counts,
      input: input ?? this.context.ledger?.tokens ?? Math.round(tokensOf(this.sent(), calibration)),
      output: output ?? Math.round(tokensOf(this.said(), calibration)),
    };
    const estimated = input === undefined || output === undefined;
    const unpriced = price.isUnset ? { isUnpriced: true as const } : {};
    // what is played was paid for when it was recorded
    const paid = this.calling.isPlayed ? 0 : priceOf(counts, price);
    return { ...counts, estimated, price: paid, currency: price.currency, ...unpriced };
  }

  private said(): Holding {
    const { said, asked } = this.hearing;
    return { counts: countsOf(said + asked), messages: 0 };
  }

  private sent(): Holding {
    return this.context.messages
      .map(({ pieces }) => ({ counts: countsOfPieces(pieces), messages: 1 }))
      .reduce(together, noHolding);
  }

  private elapsed(): number {
    return Math.round(performance.now() - this.started);
  }
}
