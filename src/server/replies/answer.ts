import { createHash } from "node:crypto";
import type { ReplyFacts } from "@/core/conversation/message";
import type { EndReason, ReadEvent, ReplyEvent, TokenCounts, Usage } from "@/core/reply/events";
import { type Problem, problem } from "@/core/reply/problem";
import { emptyReply, fold } from "@/core/reply/reply";
import { calibrated } from "@/core/tokens/calibration";
import { estimateTokens } from "@/core/tokens/estimate";
import { priceOf } from "@/core/tokens/price";
import { createDecoder, type Decoder } from "@/core/wire/decode";
import { encode, hiddenKey, type WireCall, type WireRequest } from "@/core/wire/encode";
import type { Boot } from "../boot";
import { type Exchange, exchange } from "../dispatches/exchange";
import { Recorder } from "../dispatches/recorder";
import { newId } from "../id";
import { addressOf } from "../providers/provider-store";
import { keyFrom } from "../security/keys";
import { Scrubber } from "../security/scrub";
import type { Making } from "./ask";

/**
 * Has a reply made that was asked for: encodes the call, sends it, decodes what comes back, and
 * publishes it until it ends. It never throws; what goes wrong is the end of the reply.
 */
export function answer(boot: Boot, making: Making): void {
  boot.hub.begin(making.head.reply, making.head.conversation);
  const carried: ReplyEvent[] = making.begun.text === "" ? [] : [{ event: "text", data: { text: making.begun.text } }];
  boot.hub.publish(making.head.reply, { event: "reply", data: making.head }, ...carried);
  const attempt = new Attempt(boot, making);
  try {
    attempt.send();
  } catch (error) {
    attempt.crash(error);
  }
}

/** One dispatch on the way: what has come of it, and how it ends. */
class Attempt {
  private readonly id = newId("dis");
  private readonly startedAt = Date.now();
  private readonly started = performance.now();
  private readonly recorder: Recorder;
  private readonly scrubber: Scrubber;
  private readonly key: string | undefined;
  private decoder: Decoder | undefined;
  private exchange: Exchange | undefined;
  private status: number | null = null;
  private counts: Partial<TokenCounts> = {};
  private read = emptyReply;
  private firstTextMs: number | undefined;
  private over = false;

  constructor(
    private readonly boot: Boot,
    private readonly making: Making,
  ) {
    const { keyVariable } = making.provider;
    this.key = keyVariable === null ? undefined : keyFrom(keyVariable);
    this.recorder = new Recorder(this.id, boot.dispatches, boot.hub);
    this.scrubber = new Scrubber(this.key);
  }

  send(): void {
    const { provider, model, context, revision, head } = this.making;
    this.boot.hub.onStop(head.reply, () => this.stop());
    const call: WireCall = {
      model: model.name,
      key: this.key,
      stream: true,
      messages: context.messages,
      settings: revision.content.settings,
    };
    const { path, ...kept } = encode(provider.profile, { ...call, key: this.key && hiddenKey });
    this.boot.dispatches.begin({
      id: this.id,
      reply: head.reply,
      provider: provider.name,
      model: model.name,
      profileHash: createHash("sha256").update(provider.profileText).digest("hex"),
      request: { ...kept, url: addressOf(provider, { path }) },
      ledger: context.ledger,
      prices: model.price,
      startedAt: this.startedAt,
    });
    if (provider.keyVariable !== null && this.key === undefined)
      this.end(missingKey(provider.name, provider.keyVariable));
    else this.exchangeWith(encode(provider.profile, call));
  }

  private exchangeWith(request: WireRequest): void {
    const { provider } = this.making;
    this.exchange = exchange({ ...request, url: addressOf(provider, request) }, provider.limits, {
      head: (answer) => {
        this.status = answer.status;
        this.decoder = createDecoder(provider.profile, answer);
      },
      bytes: (bytes) => this.guard(() => this.take(this.scrubber.feed(bytes))),
      close: () =>
        this.guard(() => {
          this.take(this.scrubber.close());
          this.takeEvents(this.decoder?.close() ?? []);
        }),
      fail: (failure) => this.guard(() => this.end({ event: "problem", data: failure })),
    });
  }

  /** Ends the reply over an error of our own. */
  crash(error: unknown): void {
    this.boot.log.error({ error, reply: this.making.head.reply }, "a reply could not be made");
    void this.exchange?.abort();
    this.end({ event: "problem", data: problem("internal", "The reply could not be made; the terminal says why.") });
  }

  private async stop(): Promise<void> {
    await this.exchange?.abort();
    this.end({ event: "end", data: { reason: "stopped" } });
  }

  private guard(work: () => void): void {
    try {
      work();
    } catch (error) {
      this.crash(error);
    }
  }

  private take(bytes: Buffer): void {
    if (bytes.length === 0 || this.over) return;
    this.recorder.bytes(bytes, this.elapsed());
    this.takeEvents(this.decoder?.feed(bytes) ?? []);
  }

  private takeEvents(events: ReadEvent[]): void {
    for (const event of events) {
      if (event.event === "counts") this.counts = { ...this.counts, ...event.data };
      else if (event.event === "end" || event.event === "problem") this.end(event);
      else this.publish(event);
    }
  }

  private publish(event: Extract<ReadEvent, { event: "text" | "thought" }>): void {
    const { reply } = this.making.head;
    if (event.event === "text") {
      this.recorder.text(event.data.text.length, this.elapsed());
      this.firstTextMs ??= this.elapsed();
    }
    if (this.read.state === "waiting") this.boot.hub.commitAlong(() => this.boot.conversations.markArriving(reply));
    this.read = fold(this.read, event);
    this.boot.hub.publish(reply, event);
  }

  private end(last: Extract<ReplyEvent, { event: "end" | "problem" }>): void {
    if (this.over) return;
    this.over = true;
    this.exchange?.leave();
    const { head, provider, model, context, begun } = this.making;
    const { hub, conversations, dispatches, providers } = this.boot;
    const usage = this.usage();
    this.read = fold(this.read, last);
    const facts: ReplyFacts = {
      ...this.making.reply.facts,
      ...(this.read.thought === "" ? {} : { thought: this.read.thought }),
      ...(usage ? { usage } : {}),
      ...(last.event === "problem" ? { problem: last.data } : {}),
      ...(this.firstTextMs === undefined ? {} : { firstTextMs: this.firstTextMs }),
      totalMs: this.elapsed(),
      trace: this.recorder.trace(),
    };
    const tokens = begun.tokens + (usage ? usage.output - (usage.thought ?? 0) : 0);
    hub.commitAlong(() => {
      conversations.finishReply({
        id: head.reply,
        state: this.read.state,
        text: begun.text + this.read.text,
        tokens,
        facts,
      });
      dispatches.finish({ id: this.id, status: this.status, outcome: last, usage, endedAt: Date.now() });
      if (this.counts.input !== undefined)
        providers.learn(provider.id, model.name, context.ledger.rawTokens, this.counts.input);
    });
    hub.publish(head.reply, ...(usage ? [{ event: "usage", data: usage } as const] : []), last);
    this.report(last, usage);
  }

  /** What the call cost: as reported, or estimated from what was sent and read; nothing where nothing was read. */
  private usage(): Usage | undefined {
    const { model, context } = this.making;
    const { input, output } = this.counts;
    if (input === undefined && output === undefined && this.read.text === "" && this.read.thought === "")
      return undefined;
    const counts = {
      ...this.counts,
      input: input ?? context.ledger.tokens,
      output: output ?? calibrated(estimateTokens(this.read.text + this.read.thought), model.calibration),
    };
    const estimated = input === undefined || output === undefined;
    return { ...counts, estimated, price: priceOf(counts, model.price), currency: model.price.currency };
  }

  private report(
    last: { event: "end"; data: { reason: EndReason } } | { event: "problem"; data: Problem },
    usage: Usage | undefined,
  ): void {
    const { app, asker, model, context } = this.making;
    this.boot.log.info(
      {
        app: app.slug,
        origin: asker.kind,
        model: model.name,
        messages: context.messages.length,
        input: usage?.input,
        output: usage?.output,
        firstTextMs: this.firstTextMs,
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

function missingKey(provider: string, variable: string): Extract<ReplyEvent, { event: "problem" }> {
  return {
    event: "problem",
    data: problem("misconfigured", `${provider} needs a key, and ${variable} is not set.`, {
      advice: `Add the line ${variable}=… to the file .env, or set it in the environment and start again.`,
    }),
  };
}
