import { type Duplex, Readable } from "node:stream";
import type { Dispatcher } from "undici";
import { type Problem, problem } from "@/core/problem/problem";
import type { Limits } from "@/core/provider/limits";
import type { AnswerHead } from "@/core/wire/decode";
import { type AnswerHeaders, headOf } from "./answer-head";
import { bytesOf, judge, lengthOf, type Outgoing, Unsendable } from "./outgoing";
import { acceptedEncodings, UnknownEncoding, unpackerFor } from "./unpacking";
import { failureOf } from "./unreached";
import { dispatcherFor, type Way } from "./way";

/** What an exchange tells as it goes. After `close` or `fail` nothing more is told. */
export interface Listener {
  head(head: AnswerHead): void;
  bytes(bytes: Buffer): void;
  /** @param isWhole whether the answer came to its own end */
  close(isWhole: boolean): void;
  fail(problem: Problem): void;
}

/** An exchange that is under way. */
export interface Exchange {
  /** Ends it without another word to the listener; resolves when the connection is closed. */
  abort(): Promise<void>;
  /** Ends it without another word, but lets the connection be used again if it is done within a second. */
  leave(): void;
}

/** Headers of every request that does not say otherwise. */
export const alwaysSent = { "accept-encoding": acceptedEncodings };

/** The limits of one call, and whether its model may have to be loaded before. */
export type CallLimits = Limits & { isLoading?: boolean };

/**
 * Sends a request and tells what comes back, under time limits. Redirects are not followed: the
 * request may carry a key. Compressed answers are given as they were before. It is sent once: on a new connection, or on
 * one that was kept open and still is. It never throws: a request that can't be made is told to the listener like any
 * other failure.
 */
export function exchange(outgoing: Outgoing, limits: CallLimits, listener: Listener, way: Way = {}): Exchange {
  const under = new Call(outgoing, limits, listener, way);
  try {
    under.send();
  } catch (error) {
    // whoever asked for it gets the exchange first
    queueMicrotask(() => under.failToSend(error));
  }
  return under;
}

/** One call from its sending to its end, as undici tells of it. */
class Call implements Exchange, Dispatcher.DispatchHandler {
  private controller: Dispatcher.DispatchController | undefined;
  private isOver = false;
  private hasHead = false;
  private hasBytes = false;
  /** Whether the connection broke off in the middle of the answer. */
  private isBroken = false;
  /** Whether the call was made a second time. */
  private isSecond = false;
  /** What is undone to the body, first to last; none where it comes as it is. */
  private steps: Duplex[] = [];
  private phase: NodeJS.Timeout | undefined;
  private readonly whole: NodeJS.Timeout;

  constructor(
    private readonly outgoing: Outgoing,
    private readonly limits: CallLimits,
    private readonly listener: Listener,
    private readonly way: Way,
  ) {
    this.whole = this.limit("all");
    this.next("connect");
  }

  /** @throws {Unsendable} and what undici throws over a request that it can't write */
  send(): void {
    judge(this.outgoing);
    const { method, url: address, headers, body } = this.outgoing;
    const { origin, pathname, search, protocol } = new URL(address);
    const dispatcher = dispatcherIn(this.way, protocol);
    dispatcher.dispatch(
      {
        origin,
        path: pathname + search,
        method: method as Dispatcher.HttpMethod,
        headers: { ...alwaysSent, ...headers, ...lengthOf(body) },
        body: typeof body === "object" ? Readable.from(bytesOf(body)) : (body ?? null),
        // the limits of the provider hold, not those of the package
        headersTimeout: 0,
        bodyTimeout: 0,
      },
      this,
    );
  }

  failToSend(error: unknown): void {
    if (error instanceof Unsendable) this.fail(error.problem);
    else this.fail(problem("misconfigured", `The call can't be sent: ${(error as Error).message}.`));
  }

  async abort(): Promise<void> {
    if (this.isOver) return;
    this.end(() => this.cutOff());
    // what is cut off is closed by the next turn of the event loop
    await new Promise(setImmediate);
  }

  leave(): void {
    if (this.isOver) return;
    this.end(() => {});
    setTimeout(() => this.cutOff(), patience).unref();
  }

  onRequestStart(controller: Dispatcher.DispatchController): void {
    this.controller = controller;
    if (this.isOver) this.cutOff();
    else this.next(this.limits.isLoading ? "loading" : "first");
  }

  onResponseStart(_controller: Dispatcher.DispatchController, status: number, headers: AnswerHeaders): void {
    // what a server says beforehand (RFC 9110, 15.2) is no answer yet
    if (this.isOver || status < 200) return;
    const head = headOf(status, headers);
    this.hasHead = true;
    try {
      this.steps = unpackerFor(head.headers["content-encoding"]);
    } catch (error) {
      if (!(error instanceof UnknownEncoding)) throw error;
      this.listener.head(head);
      const packed = `The answer is packed as “${error.message}”, which was not asked for and can't be read.`;
      this.fail(problem("bad-reply", packed));
      return;
    }
    this.listener.head(head);
    this.unpack();
  }

  onResponseData(controller: Dispatcher.DispatchController, bytes: Buffer): void {
    const [first] = this.steps;
    if (!first) this.take(bytes);
    else if (!first.write(bytes)) {
      controller.pause();
      first.once("drain", () => controller.resume());
    }
  }

  onResponseEnd(): void {
    const [first] = this.steps;
    if (first) first.end();
    else this.close(true);
  }

  onResponseError(_controller: Dispatcher.DispatchController, error: Error): void {
    if (this.isOver) return;
    const [first] = this.steps;
    this.isBroken = true;
    if (first) first.end();
    else if (this.hasHead) this.close(false);
    else if (this.controller && isSafe.test(this.outgoing.method) && !this.isSecond) this.sendAgain();
    else this.fail(failureOf(error, this.outgoing.url, this.way, this.controller !== undefined));
  }

  /** What only asks may be asked again where a connection that was kept open ended under it (RFC 9110, 9.2.2). */
  private sendAgain(): void {
    this.isSecond = true;
    this.isBroken = false;
    this.controller = undefined;
    this.next("connect");
    this.send();
  }

  /** Has what comes out of the last step taken, and the end of it told. */
  private unpack(): void {
    const [first, ...further] = this.steps;
    if (!first) return;
    const body = further.reduce<Readable>((before, step) => before.pipe(step), first);
    body.on("data", (bytes: Buffer) => this.take(bytes));
    body.on("end", () => this.close(!this.isBroken));
    for (const step of this.steps)
      step.on("error", (error: NodeJS.ErrnoException) => {
        if (error.code === "Z_BUF_ERROR" || this.isBroken) this.close(false);
        else this.fail(problem("bad-reply", `The answer is not packed as its headers say: ${error.message}.`));
      });
  }

  private take(bytes: Buffer): void {
    if (this.isOver) return;
    if (this.hasBytes) this.phase?.refresh();
    else this.next("between");
    this.hasBytes = true;
    this.listener.bytes(bytes);
  }

  private close(isWhole: boolean): void {
    this.end(() => this.listener.close(isWhole));
  }

  private fail(failure: Problem): void {
    this.end(() => {
      this.cutOff();
      this.listener.fail(failure);
    });
  }

  private end(tell: () => void): void {
    if (this.isOver) return;
    this.isOver = true;
    clearTimeout(this.phase);
    clearTimeout(this.whole);
    tell();
  }

  /** Closes the connection; one that is not there yet is not sent on. */
  private cutOff(): void {
    if (this.controller && !this.controller.aborted) this.controller.abort(new Error("no more of it is wanted"));
  }

  private next(name: LimitName): void {
    clearTimeout(this.phase);
    if (!this.isOver) this.phase = this.limit(name);
  }

  private limit(name: LimitName): NodeJS.Timeout {
    const milliseconds = this.limits[name] ?? this.limits.first;
    const saying = `${limitSayings[name]} within ${milliseconds / 1000} s, the limit \`${name}\` of this provider.`;
    return setTimeout(() => this.fail(problem("timed-out", saying)), milliseconds);
  }
}

const isSafe = /^(?:GET|HEAD)$/i;

/** Milliseconds that a call which nobody reads may still take, so that its connection can be used again. */
const patience = 1_000;

/** @throws {Unsendable} where what the way names can't be used */
function dispatcherIn(way: Way, protocol: string): Dispatcher {
  try {
    return dispatcherFor(way, protocol);
  } catch (error) {
    if (!way.caFile)
      throw new Unsendable(problem("misconfigured", "The proxy that is set can't be used: it is no http address."));
    const why = (error as NodeJS.ErrnoException).code === "ENOENT" ? "there is no such file" : (error as Error).message;
    throw new Unsendable(
      problem("misconfigured", `The certificates in ${way.caFile} can't be used: ${why}.`, {
        advice: "Give the path of a PEM file on the Providers page, or leave it empty.",
      }),
    );
  }
}

type LimitName = keyof Limits;

const limitSayings: Record<LimitName, string> = {
  connect: "No connection to the provider could be made",
  first: "The provider sent nothing",
  between: "The provider fell silent in the middle of its answer: nothing more came",
  all: "The answer was not complete",
  loading: "The model was not loaded, or sent nothing,",
};
