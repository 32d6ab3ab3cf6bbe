import { textOf } from "@/core/conversation/pieces";
import { type Problem, problem } from "@/core/problem/problem";
import type { LastEvent, ReadEvent, TokenCounts, Usage } from "@/core/reply/events";
import type { DispatchNote } from "@/core/reply/note";
import { tokensOf } from "@/core/tokens/calibration";
import { countsOf, type Holding } from "@/core/tokens/counts";
import { priceOf } from "@/core/tokens/price";
import { type AnswerHead, createDecoder, type Decoder } from "@/core/wire/decode";
import { encode, hiddenExtras, hiddenKey, type WireRequest } from "@/core/wire/encode";
import { written } from "@/core/wire/json";
import { addressOf } from "../exchange/connection";
import { shownHeaders, withKeyAdvice } from "../exchange/credentials";
import { alwaysSent, type Exchange, exchange, type Outgoing } from "../exchange/exchange";
import { newId } from "../ground/id";
import { Scrubber, TextScrubber } from "../security/scrub";
import { GrowingText } from "./growing-text";
import { Trace } from "./trace";
import type { Attempted, Context, Counted, Filling, Means, Order, Sink, Speaker, Take } from "./types";

/** Characters that a reply may have, what was there before and its thought included. */
const longestReply = 16 * 1024 * 1024;
/** Bytes that an answer may have, and characters of what an API wants back with the next call. */
const largestAnswer = 256 * 1024 * 1024;
const longestCarry = 256 * 1024;

/** A request with its whole address, and as the profile made it. */
type EncodedRequest = WireRequest & Outgoing;

/** A take while it comes. */
interface Coming {
  said: { text: GrowingText; thought: GrowingText };
  scrub: { text: TextScrubber; thought: TextScrubber };
  last?: LastEvent;
}

/** One attempt, which is one dispatch: encode, send, read, finish. Words go to the sink as they come. */
export class Attempt {
  private readonly id = newId("dis");
  private readonly started = performance.now();
  private scrubber = new Scrubber([]);
  private secrets: string[] = [];
  private decoder: Decoder | undefined;
  private exchange: Exchange | undefined;
  private head: AnswerHead | undefined;
  private counts: Partial<TokenCounts> = {};
  private readonly takes = new Map<number, Coming>();
  private readonly trace = new Trace();
  private carry: unknown;
  private readonly notes: DispatchNote[] = [];
  private size = 0;
  private length: number;
  private over = false;
  private done: (attempted: Attempted) => void = () => {};
  private crashed: (error: unknown) => void = () => {};

  constructor(
    private readonly order: Order,
    private readonly sink: Sink,
    private readonly means: Means,
    private readonly speaker: Speaker,
    private readonly context: Extract<Context, { kind: "ready" }>,
    private readonly number: number,
  ) {
    this.length = order.begun;
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
    await this.exchange?.abort();
    this.end(last);
  }

  /** Ends it without another word. */
  async abort(): Promise<void> {
    this.over = true;
    await this.exchange?.abort();
  }

  private get streams(): boolean {
    return this.order.streams && this.speaker.connection.profile.stream !== undefined;
  }

  private async send(): Promise<void> {
    const { connection, model } = this.speaker;
    const shown = this.encoded({
      key: connection.credential.kind === "none" ? undefined : hiddenKey,
      extras: hiddenExtras(Object.keys(connection.extras)),
      headers: shownHeaders(connection),
    });
    this.sink.begin({
      id: this.id,
      round: 1,
      attempt: this.number,
      providerId: connection.id,
      provider: connection.slug,
      model: model.name,
      profileText: connection.profileText,
      request: {
        method: shown.method,
        url: shown.url,
        headers: { ...alwaysSent, ...shown.headers },
        body: shown.body ?? "",
      },
      ledger: this.context.ledger,
      prices: model.price,
      startedAt: Date.now(),
    });
    const resolved = await this.means.resolve(connection);
    if (this.over) return;
    if (resolved.problem) {
      this.end({ event: "problem", data: resolved.problem });
      return;
    }
    this.secrets = resolved.secrets;
    this.scrubber = new Scrubber(resolved.secrets);
    const request = this.encoded(resolved, shown);
    this.exchange = exchange(
      request,
      connection.limits,
      {
        head: (head) => {
          this.head = { ...head, streamed: this.streams };
          this.decoder = createDecoder(connection.profile, this.head);
        },
        bytes: (bytes) => this.guard(() => this.take(this.scrubber.feed(bytes))),
        close: (isWhole) =>
          this.guard(() => {
            this.take(this.scrubber.close());
            this.read(this.decoder?.close(isWhole) ?? [], true);
          }),
        fail: (failure) => this.guard(() => this.end({ event: "problem", data: failure })),
      },
      resolved.way,
    );
  }

  /** The request, with marks in the places of its secrets, or after that with them. */
  private encoded(filling: Filling, shown?: EncodedRequest): EncodedRequest {
    const { order, speaker, context } = this;
    if (order.request) return { ...order.request(speaker, filling), path: "" };
    const { key, extras, headers } = filling;
    const { settings, takes } = order;
    const call = {
      model: speaker.model.name,
      stream: this.streams,
      messages: context.messages,
      settings,
      takes: takes > 1 ? takes : undefined,
      key,
      extras,
    };
    const request = encode(speaker.connection.profile, call, shown);
    const url = addressOf(speaker.connection, request);
    return { ...request, url, headers: { ...request.headers, ...headers } };
  }

  private guard(work: () => void): void {
    try {
      work();
    } catch (error) {
      this.over = true;
      void this.exchange?.abort();
      this.crashed(error);
    }
  }

  private take(bytes: Buffer): void {
    if (bytes.length === 0 || this.over) return;
    this.size += bytes.length;
    if (this.size > largestAnswer) {
      this.refuse(`The answer is larger than ${largestAnswer / 1024 / 1024} MiB, and was left.`);
      return;
    }
    this.sink.bytes(this.id, bytes, this.elapsed());
    this.read(this.decoder?.feed(bytes) ?? []);
  }

  private read(events: readonly ReadEvent[], isClosed = false): void {
    for (const event of events) {
      if (this.over) return;
      switch (event.event) {
        case "text":
        case "thought":
          if (event.take >= this.order.takes) break;
          this.say(event.take, event.event, this.coming(event.take).scrub[event.event].feed(event.data.text));
          break;
        case "counts":
          this.counts = { ...this.counts, ...event.data };
          break;
        case "left-out":
          this.notes.push({ kind: "count-left-out", count: event.data.count, found: this.scrubbed(event.data.found) });
          break;
        case "passed-over":
          this.notePassedOver(event.data.found);
          break;
        case "carry":
          if (event.take === 0) this.keepCarry(event.data.value);
          break;
        case "end":
          this.coming(event.take).last = { event: "end", data: event.data };
          break;
        case "problem":
          if (event.take === null) this.end({ event: "problem", data: event.data });
          else this.coming(event.take).last = { event: "problem", data: event.data };
          break;
      }
    }
    const first = this.takes.get(0)?.last;
    // takes may come one after another: one of which nothing was heard yet may still begin
    const areAllThere = isClosed || this.takes.size >= this.order.takes;
    if (areAllThere && first && [...this.takes.values()].every(({ last }) => last)) this.end(first);
  }

  /** A take, which begins with the first thing that is heard of it. */
  private coming(take: number): Coming {
    let coming = this.takes.get(take);
    if (!coming) {
      const scrub = { text: new TextScrubber(this.secrets), thought: new TextScrubber(this.secrets) };
      coming = { said: { text: new GrowingText(), thought: new GrowingText() }, scrub };
      this.takes.set(take, coming);
    }
    return coming;
  }

  private say(take: number, event: "text" | "thought", text: string): void {
    if (text === "") return;
    const { said, scrub } = this.coming(take);
    if (event === "text" && take === 0) this.trace.add(performance.now(), text.length);
    said[event].add(text);
    if (scrub[event].hasFound) this.leaveOutBytes();
    this.sink.say(take, event, text);
    this.length += text.length;
    if (this.length > longestReply)
      this.refuse(`The reply is longer than ${longestReply / 1024 / 1024} million characters, and was ended.`);
  }

  /** Ends it over an answer that does not stop by itself. */
  private refuse(detail: string): void {
    const advice = "Set an output limit in the Model station.";
    this.end({ event: "problem", data: problem("bad-reply", detail, { advice }) });
  }

  /** Keeps what the API wants back, unless it is too large to be carried. */
  private keepCarry(value: unknown): void {
    const text = written(value);
    if (text.length > longestCarry) return;
    this.carry = typeof value === "string" ? this.scrubbed(text) : JSON.parse(this.scrubbed(text));
  }

  private notePassedOver(found: string): void {
    const noted = this.notes.find((note) => note.kind === "passed-over");
    if (noted) noted.count += 1;
    else this.notes.push({ kind: "passed-over", count: 1, found: this.scrubbed(found) });
  }

  /** A text of the answer without secrets; one that stood there in another writing than its bytes show. */
  private scrubbed(text: string): string {
    const safe = Scrubber.text(text, this.secrets);
    if (safe !== text) this.leaveOutBytes();
    return safe;
  }

  /** Keeps none of the bytes of an answer that holds a secret in pieces, which could be put together again. */
  private leaveOutBytes(): void {
    if (this.notes.some(({ kind }) => kind === "secret-in-pieces")) return;
    this.notes.push({ kind: "secret-in-pieces" });
    this.sink.leaveOutBytes(this.id);
  }

  private end(last: LastEvent): void {
    if (this.over) return;
    for (const [take, { scrub }] of this.takes)
      for (const event of ["thought", "text"] as const) this.say(take, event, scrub[event].close());
    if (this.over) return;
    this.over = true;
    this.exchange?.leave();
    const { connection, model } = this.speaker;
    const usage = this.usage();
    const outcome = this.hidden(last);
    this.sink.end({
      id: this.id,
      status: this.head?.status ?? null,
      headers: Object.fromEntries(
        Object.entries(this.head?.headers ?? {}).map(([name, value]) => [name, Scrubber.text(value, this.secrets)]),
      ),
      outcome,
      usage,
      counted: this.counted(),
      notes: this.notes,
      endedAt: Date.now(),
    });
    const takes = Array.from({ length: this.order.takes }, (_, take): Take => {
      const { said, last: own } = this.takes.get(take) ?? {};
      return {
        text: said?.text.text ?? "",
        thought: said?.thought.text ?? "",
        last: last.event === "problem" || !own ? outcome : this.hidden(own),
      };
    });
    this.done({
      speaker: { provider: connection.slug, model: model.name },
      takes: takes as [Take, ...Take[]],
      status: this.head?.status ?? null,
      counts: this.counts,
      usage,
      firstTextAt: this.trace.firstAt,
      trace: this.trace.parts,
      carry: this.carry,
    });
  }

  /** An end without the secrets that a provider's words may hold. */
  private hidden(last: LastEvent): LastEvent {
    if (last.event === "end") return last;
    const failure: Problem = withKeyAdvice(last.data, this.speaker.connection.credential);
    return { event: "problem", data: { ...failure, detail: this.scrubbed(failure.detail) } };
  }

  /** What the provider counted: what was sent, where that was accounted for, and what it said. */
  private counted(): Counted[] {
    const { input, output } = this.counts;
    const sent = this.context.ledger?.holding;
    if (!sent) return [];
    const said = { counts: countsOf(this.said()), messages: 0 };
    return [
      ...(input === undefined ? [] : [{ holding: sent, tokens: input }]),
      ...(output === undefined ? [] : [{ holding: said, tokens: output }]),
    ];
  }

  /** What the call cost: as reported, or estimated from what was sent and read; nothing where nothing was read. */
  private usage(): Usage | undefined {
    const { price, calibration } = this.speaker.model;
    const { input, output } = this.counts;
    const read = this.said();
    if (input === undefined && output === undefined && read === "") return undefined;
    const counts = {
      ...this.counts,
      input: input ?? this.context.ledger?.tokens ?? Math.round(tokensOf(this.sent(), calibration)),
      output: output ?? Math.round(tokensOf({ counts: countsOf(read), messages: 0 }, calibration)),
    };
    const estimated = input === undefined || output === undefined;
    const unpriced = price.isUnset ? { isUnpriced: true as const } : {};
    return { ...counts, estimated, price: priceOf(counts, price), currency: price.currency, ...unpriced };
  }

  /** All that was said, by all takes. */
  private said(): string {
    return [...this.takes.values()].map(({ said }) => said.text.text + said.thought.text).join("");
  }

  private sent(): Holding {
    const { messages } = this.context;
    return { counts: countsOf(messages.map(textOf).join("\n")), messages: messages.length };
  }

  private elapsed(): number {
    return Math.round(performance.now() - this.started);
  }
}
