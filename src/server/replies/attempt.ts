import { createHash } from "node:crypto";
import type { DispatchNote } from "@/contract/dispatches";
import type { Assembled } from "@/core/context/assemble";
import { type Problem, problem } from "@/core/problem/problem";
import type { Candidate, ReadEvent, ReplyEvent, TokenCounts, Usage } from "@/core/reply/events";
import { calibrated } from "@/core/tokens/calibration";
import { estimateTokens } from "@/core/tokens/estimate";
import { priceOf } from "@/core/tokens/price";
import { type AnswerHead, createDecoder, type Decoder } from "@/core/wire/decode";
import { encode, hiddenExtras, hiddenKey, type WireCall } from "@/core/wire/encode";
import { written } from "@/core/wire/json";
import type { Boot } from "../boot";
import { Recorder } from "../dispatches/recorder";
import { shownHeaders } from "../exchange/credentials";
import { alwaysSent, type Exchange, exchange } from "../exchange/exchange";
import { newId } from "../id";
import { addressOf, type StoredModel, type StoredProvider } from "../providers/provider-store";
import { Scrubber, TextScrubber } from "../security/scrub";
import type { Making } from "./ask";

/** What came of an attempt. */
export interface Attempted {
  candidate: Candidate;
  last: Extract<ReplyEvent, { event: "end" | "problem" }>;
  /** HTTP status of the answer. */
  status: number | null;
  text: string;
  thought: string;
  usage?: Usage;
  /** The `performance.now()` of the first text. */
  firstTextMs?: number;
  trace?: number[];
  /** What the API wants back with the next call. */
  carry?: unknown;
}

/** Characters that a reply may have, the text that it goes on from and its thought included. */
const longestReply = 16 * 1024 * 1024;
/** Bytes that an answer may have, and characters of what an API wants back with the next call. */
const largestAnswer = 256 * 1024 * 1024;
const longestCarry = 256 * 1024;

/** Answers may come without any request in between: nothing was carried. */
const nothingToScrub = new Scrubber([]);

/** One attempt to get a reply, which is one dispatch. Text is published as it comes. */
export class Attempt {
  private readonly id = newId("dis");
  private readonly startedAt = Date.now();
  private readonly started = performance.now();
  private readonly recorder: Recorder;
  private scrubber = nothingToScrub;
  private scrubText = { text: new TextScrubber([]), thought: new TextScrubber([]) };
  private secrets: string[] = [];
  private decoder: Decoder | undefined;
  private exchange: Exchange | undefined;
  private head: AnswerHead | undefined;
  private counts: Partial<TokenCounts> = {};
  private readonly said = { text: "", thought: "" };
  private firstTextMs: number | undefined;
  private carry: unknown;
  private readonly notes: DispatchNote[] = [];
  private size = 0;
  private over = false;
  private done: (attempted: Attempted) => void = () => {};
  private crashed: (error: unknown) => void = () => {};

  constructor(
    private readonly boot: Boot,
    private readonly making: Making,
    private readonly candidate: { provider: StoredProvider; model: StoredModel },
    private readonly context: Extract<Assembled, { kind: "ready" }>,
    private readonly number: number,
  ) {
    this.recorder = new Recorder(making.head.reply, this.id, boot.dispatches, boot.hub);
  }

  /** Makes the call; resolves when it has ended, rejects only over an error of our own. */
  run(): Promise<Attempted> {
    return new Promise((resolve, reject) => {
      this.done = resolve;
      this.crashed = reject;
      this.send().catch(reject);
    });
  }

  /** Ends it because no more is wanted, with what the reply then ends with. */
  async stop(last: Attempted["last"]): Promise<void> {
    await this.exchange?.abort();
    this.end(last);
  }

  /** Ends it without another word. */
  async abort(): Promise<void> {
    this.over = true;
    await this.exchange?.abort();
  }

  private async send(): Promise<void> {
    const { provider, model } = this.candidate;
    const { settings } = this.making.revision.content;
    const streams = provider.profile.stream !== undefined;
    const call: WireCall = { model: model.name, stream: streams, messages: this.context.messages, settings };
    const shown = encode(provider.profile, {
      ...call,
      extras: hiddenExtras(Object.keys(provider.extras)),
      key: provider.credential.kind === "none" ? undefined : hiddenKey,
    });
    this.boot.dispatches.begin(
      {
        id: this.id,
        reply: this.making.head.reply,
        attempt: this.number,
        providerId: provider.id,
        provider: provider.name,
        model: model.name,
        profileHash: createHash("sha256").update(provider.profileText).digest("hex"),
        request: {
          method: shown.method,
          url: addressOf(provider, shown),
          headers: { ...alwaysSent, ...shown.headers, ...shownHeaders(provider) },
          body: shown.body ?? "",
        },
        ledger: this.context.ledger,
        prices: model.price,
        startedAt: this.startedAt,
      },
      provider.profileText,
    );
    const resolved = await this.boot.credentials.resolve(provider);
    if (this.over) return;
    if (resolved.problem) {
      this.end({ event: "problem", data: resolved.problem });
      return;
    }
    this.secrets = resolved.secrets;
    this.scrubber = new Scrubber(resolved.secrets);
    this.scrubText = { text: new TextScrubber(resolved.secrets), thought: new TextScrubber(resolved.secrets) };
    const request = encode(provider.profile, { ...call, extras: resolved.extras, key: resolved.key });
    const headers = { ...request.headers, ...resolved.headers };
    this.exchange = exchange(
      { ...request, headers, url: addressOf(provider, request) },
      provider.limits,
      {
        head: (head) => {
          this.head = { ...head, streamed: streams };
          this.decoder = createDecoder(provider.profile, this.head);
        },
        bytes: (bytes) => this.guard(() => this.take(this.scrubber.feed(bytes))),
        close: (isWhole) =>
          this.guard(() => {
            this.take(this.scrubber.close());
            this.takeEvents(this.decoder?.close(isWhole) ?? []);
          }),
        fail: (failure) => this.guard(() => this.end({ event: "problem", data: failure })),
      },
      resolved.way,
    );
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
    this.recorder.bytes(bytes, this.elapsed());
    this.takeEvents(this.decoder?.feed(bytes) ?? []);
  }

  private takeEvents(events: ReadEvent[]): void {
    for (const event of events) {
      if (event.event === "counts") this.counts = { ...this.counts, ...event.data };
      else if (event.event === "end" || event.event === "problem") this.end(event);
      else if (event.event === "carry") this.keepCarry(event.data.value);
      else if (event.event === "left-out")
        this.notes.push({ kind: "count-left-out", count: event.data.count, found: this.scrubbed(event.data.found) });
      else if (event.event === "text" || event.event === "thought") {
        if (!event.data.take) this.publish(event.event, this.scrubText[event.event].feed(event.data.text));
      }
    }
  }

  private publish(event: "text" | "thought", text: string): void {
    if (text === "") return;
    const { reply } = this.making.head;
    if (event === "text") {
      this.recorder.text(text.length, this.elapsed());
      this.firstTextMs ??= performance.now();
    }
    if (this.said.text === "" && this.said.thought === "")
      this.boot.hub.commitAlong(reply, () => {
        this.boot.conversations.markArriving(reply);
        return undefined;
      });
    this.said[event] += text;
    if (this.scrubText[event].hasFound) this.leaveOutBytes();
    this.boot.hub.publish(reply, { event, data: { text } });
    const length = this.making.begun.text.length + this.said.text.length + this.said.thought.length;
    if (length > longestReply)
      this.refuse(`The reply is longer than ${longestReply / 1024 / 1024} million characters, and was ended.`);
  }

  /** Ends it over an answer that does not stop by itself. */
  private refuse(detail: string): void {
    this.end({
      event: "problem",
      data: problem("bad-reply", detail, { advice: "Set an output limit in the Model station." }),
    });
  }

  /** Keeps what the API wants back, unless it is too large to be carried. */
  private keepCarry(value: unknown): void {
    const text = written(value);
    if (text.length > longestCarry) return;
    this.carry = typeof value === "string" ? this.scrubbed(text) : JSON.parse(this.scrubbed(text));
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
    this.recorder.leaveOutBytes();
  }

  private end(last: Attempted["last"]): void {
    if (this.over) return;
    for (const event of ["thought", "text"] as const) this.publish(event, this.scrubText[event].close());
    this.over = true;
    this.exchange?.leave();
    const { provider, model } = this.candidate;
    const usage = this.usage();
    const outcome = last.event === "problem" ? { ...last, data: this.hidden(last.data) } : last;
    const { reply } = this.making.head;
    this.boot.hub.commitAlong(reply, () => {
      const written = this.recorder.write();
      this.boot.dispatches.finish({
        id: this.id,
        status: this.head?.status ?? null,
        headers: Object.fromEntries(
          Object.entries(this.head?.headers ?? {}).map(([name, value]) => [name, Scrubber.text(value, this.secrets)]),
        ),
        outcome,
        usage,
        notes: this.notes,
        endedAt: Date.now(),
      });
      if (this.counts.input !== undefined)
        this.boot.providers.learn(provider.id, model.name, this.context.ledger.rawTokens, this.counts.input);
      return written;
    });
    this.report(outcome, usage);
    this.done({
      candidate: { provider: provider.name, model: model.name },
      last: outcome,
      status: this.head?.status ?? null,
      ...this.said,
      usage,
      firstTextMs: this.firstTextMs,
      trace: this.recorder.trace(),
      carry: this.carry,
    });
  }

  /** A problem without the secrets that a provider's words may hold. */
  private hidden(failure: Problem): Problem {
    return problem(failure.kind, this.scrubbed(failure.detail), {
      advice: failure.advice,
      ...(failure.retryAfter === undefined ? {} : { retryAfter: failure.retryAfter }),
    });
  }

  /** What the call cost: as reported, or estimated from what was sent and read; nothing where nothing was read. */
  private usage(): Usage | undefined {
    const { model } = this.candidate;
    const { input, output } = this.counts;
    if (input === undefined && output === undefined && this.said.text === "" && this.said.thought === "")
      return undefined;
    const counts = {
      ...this.counts,
      input: input ?? this.context.ledger.tokens,
      output: output ?? calibrated(estimateTokens(this.said.text + this.said.thought), model.calibration),
    };
    const estimated = input === undefined || output === undefined;
    return { ...counts, estimated, price: priceOf(counts, model.price), currency: model.price.currency };
  }

  private report(last: Attempted["last"], usage: Usage | undefined): void {
    const { app, asker } = this.making;
    this.boot.log.info(
      {
        app: app.slug,
        origin: asker.kind,
        model: this.candidate.model.name,
        attempt: this.number,
        messages: this.context.messages.length,
        input: usage?.input,
        output: usage?.output,
        firstTextMs: this.firstTextMs === undefined ? undefined : Math.round(this.firstTextMs - this.started),
        totalMs: this.elapsed(),
        end: last.event === "end" ? last.data.reason : last.data.kind,
      },
      "dispatch",
    );
  }

  private elapsed(): number {
    return Math.round(performance.now() - this.started);
  }
}
