import { type Problem, problem } from "@/core/problem/problem";
import { type RecordedCall, recordedCall } from "@/core/recordings/recording";
import type { AnswerHead } from "@/core/wire/decode";
import { encode, hiddenExtras, hiddenKey, type WireCall, type WireRequest } from "@/core/wire/encode";
import { markedFiles, segmentsOf } from "@/core/wire/files";
import { addressOf } from "../exchange/connection";
import { shownHeaders } from "../exchange/credentials";
import { type Exchange, exchange } from "../exchange/exchange";
import { hearModel, limitsOf } from "../exchange/loading";
import type { BodyPart, Outgoing } from "../exchange/outgoing";
import { ownValues } from "../exchange/own-values";
import { play, Recorder } from "../exchange/traffic";
import { Scrubber } from "../security/scrub";
import type { Filling, Means, Order, ReadyContext, Speaker } from "./types";

/** Bytes that an answer may have. */
const largestAnswer = 256 * 1024 * 1024;

/** A request with its whole address, and as the profile made it. */
type EncodedRequest = WireRequest & { url: string };

/** What is told of a call as it goes. After `close` or `fail` nothing more is told. */
export interface CallListener {
  /** It is about to be made, with what must stand in nothing that is kept. */
  resolved(secrets: readonly string[]): void;
  head(head: AnswerHead): void;
  /** Bytes of the answer, without secrets. */
  bytes(bytes: Buffer): void;
  close(isWhole: boolean): void;
  fail(failure: Problem): void;
}

/** Makes one call of a provider: fills its request, sends it, and gives what comes back without secrets. It reads nothing of it. */
export class Calling {
  private exchange: Exchange | undefined;
  private recorder: Recorder | undefined;
  /** Whether its answer was recorded before, and is played. */
  isPlayed = false;
  private isOver = false;
  /** Ends the command that signs the request. */
  private readonly signing = new AbortController();

  constructor(
    private readonly order: Order,
    private readonly speaker: Speaker,
    private readonly context: ReadyContext,
    private readonly means: Means,
    private readonly round: number,
  ) {}

  /** Whether a stream is asked for. */
  get streams(): boolean {
    return this.order.streams && this.speaker.connection.profile.stream !== undefined;
  }

  /** The request with marks in the places of its secrets. */
  shown(): EncodedRequest {
    return this.encoded(this.hidden());
  }

  /** Marks in the places of secrets. */
  private hidden(): Filling {
    const { connection } = this.speaker;
    return {
      key: connection.credential.kind === "none" ? undefined : hiddenKey,
      extras: hiddenExtras(Object.keys(connection.extras)),
      values: ownValues(connection),
      headers: shownHeaders(connection),
    };
  }

  /** The call as recordings know it: its seed is the order's, and not of what is asked. */
  private recordedCall(): RecordedCall | undefined {
    const { traffic, settings } = this.order;
    if (!traffic) return undefined;
    const { connection, model } = this.speaker;
    const asked = this.encoded(this.hidden(), undefined, { ...settings, seed: undefined });
    return recordedCall({ provider: connection.slug, model: model.name }, asked, traffic.leave);
  }

  /** Sends the request. @param shown as it was shown; what of it holds no secret is used again */
  async send(shown: EncodedRequest, listener: CallListener): Promise<void> {
    const { connection } = this.speaker;
    const { traffic } = this.order;
    const call = this.recordedCall();
    const found = call && traffic?.by.find(call);
    if (found?.kind === "none") {
      listener.fail(found.problem);
      return;
    }
    // before any credential is looked for: what is played needs none
    if (found?.kind === "played") {
      this.isPlayed = true;
      this.exchange = play(found.answer, traffic?.by.pace ?? "at-once", listener);
      return;
    }
    const resolved = await this.means.resolve(connection);
    if (this.isOver) return;
    if (resolved.problem) {
      listener.fail(resolved.problem);
      return;
    }
    listener.resolved(resolved.secrets);
    const outgoing = this.outgoing(this.encoded(resolved, shown));
    if ("problem" in outgoing) {
      listener.fail(outgoing.problem);
      return;
    }
    const signed = await this.means.sign(connection, outgoing, resolved.secrets, this.signing.signal);
    if (this.isOver) return;
    if (signed.problem) {
      listener.fail(signed.problem);
      return;
    }
    const scrubber = new Scrubber(resolved.secrets);
    const keep = call && traffic?.by.keep?.bind(traffic.by, call);
    this.recorder = keep && new Recorder(listener, resolved.secrets, keep);
    const to = this.recorder ?? listener;
    let size = 0;
    const take = (bytes: Buffer) => {
      if (bytes.length === 0 || this.isOver) return;
      size += bytes.length;
      if (size > largestAnswer) to.fail(tooLarge);
      else to.bytes(bytes);
    };
    this.exchange = exchange(
      signed.outgoing,
      limitsOf(connection, this.speaker.model.name),
      {
        head: (head) => {
          if (head.status < 300) hearModel(connection, this.speaker.model.name);
          to.head(head);
        },
        bytes: (bytes) => take(scrubber.feed(bytes)),
        close: (isWhole) => {
          take(scrubber.close());
          to.close(isWhole);
        },
        fail: (failure) => to.fail(failure),
      },
      resolved.way,
    );
  }

  /** Ends it without another word; resolves when the connection is closed. */
  async abort(): Promise<void> {
    this.isOver = true;
    this.recorder?.drop();
    this.signing.abort();
    await this.exchange?.abort();
  }

  /** Its answer is not recorded. */
  forgo(): void {
    this.recorder?.drop();
  }

  /** Ends it without another word; its connection may be used again. */
  leave(): void {
    this.isOver = true;
    this.recorder?.leave();
    this.signing.abort();
    this.exchange?.leave();
  }

  /** The request, with marks in the places of its secrets, or after that with them. */
  private encoded(filling: Filling, shown?: EncodedRequest, settings = this.order.settings): EncodedRequest {
    const { order, speaker, context } = this;
    if (order.request) return { ...order.request(speaker, filling), path: "" };
    const { key, extras, values, headers } = filling;
    const { takes } = order;
    const call = {
      model: speaker.model.name,
      stream: this.streams,
      messages: context.messages,
      settings,
      ...this.offered(),
      schema: this.schema(),
      takes: takes > 1 ? takes : undefined,
      key,
      extras,
      values,
    };
    const request = encode(speaker.connection.profile, call, shown);
    const url = addressOf(speaker.connection, request, values);
    return { ...request, url, headers: { ...request.headers, ...headers } };
  }

  /** The tools that may be asked for in this round, and whether one has to be. */
  private offered(): Pick<WireCall, "tools" | "toolChoice"> {
    const { tools } = this.order;
    if (!tools) return {};
    const { connection, model } = this.speaker;
    const { choice = "auto", firstRound, offered } = tools;
    const isHeld = choice === "none" || this.round === firstRound;
    const { choosesTools } = connection.profile.placesFor(model.name);
    // where an API can't be told that it calls none, none are offered
    if (choice === "none" && !choosesTools) return {};
    return { tools: offered, toolChoice: isHeld ? choice : "auto" };
  }

  /** The schema that the reply has to fit, where the API has a place for it. */
  private schema(): unknown {
    const { connection, model } = this.speaker;
    return connection.profile.placesFor(model.name).takesSchema ? this.order.form?.schema : undefined;
  }

  /** The request with the files in it that its messages hold. */
  private outgoing({ method, url, headers, body }: EncodedRequest): Outgoing | { problem: Problem } {
    const pieces = this.context.messages.flatMap((message) => message.pieces);
    const pictures = pieces.flatMap((piece) => (piece.kind === "picture" ? piece.file : []));
    // a request that was edited was made of a dispatch, marks included
    const hashes = new Set(this.order.request && body ? markedFiles(body) : pictures);
    if (body === undefined || hashes.size === 0) return { method, url, headers, body };
    const parts: BodyPart[] = [];
    for (const segment of segmentsOf(body, hashes)) {
      const file = segment.kind === "file" ? this.means.files.find(segment.hash) : undefined;
      if (segment.kind === "text") parts.push(segment);
      else if (file) parts.push({ kind: "file", path: file.path, size: file.size });
      else return { problem: problem("internal", "A picture of the conversation is not in the data folder any more.") };
    }
    return { method, url, headers, body: parts };
  }
}

const tooLarge = problem("bad-reply", `The answer is larger than ${largestAnswer / 1024 / 1024} MiB, and was left.`, {
  advice: "Set an output limit in the Model station.",
});
