import type { ReplyFacts } from "@/core/conversation/message";
import { type Problem, problem } from "@/core/problem/problem";
import type { Candidate, LastEvent, ReplyEvent } from "@/core/reply/events";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Boot } from "../boot";
import type { Making } from "./ask";
import { Attempt, type Attempted } from "./attempt";

/** Kinds of failure after which the same call can go better a moment later. */
const passing = new Set<Problem["kind"]>(["unreachable", "rate-limited", "overloaded", "timed-out"]);
/** Seconds before the second try where the provider does not say; doubled each time. */
const firstWait = 0.5;
/** Seconds that a reply waits at most for a provider that asks for it. */
const longestWait = 60;

/**
 * Has a reply made that was asked for, in as many attempts as it takes, and publishes it until it
 * ends. It never throws; what goes wrong is the end of the reply.
 */
export function answer(boot: Boot, making: Making): void {
  const answering = new Answering(boot, making);
  const { reply, conversation } = making.head;
  boot.hub.begin({
    reply,
    conversation,
    halt: (last) => answering.stop(last),
    fail: (failure) => answering.storeFailure(failure),
  });
  const carried: ReplyEvent[] = making.begun.text === "" ? [] : [{ event: "text", data: { text: making.begun.text } }];
  boot.hub.publish(reply, { event: "reply", data: making.head }, ...carried);
  void answering.run();
}

type Last = Attempted["last"];

/** The making of one reply: attempts with its model, then with those it may fall back to. */
class Answering {
  private readonly started = performance.now();
  private readonly failures: (Candidate & { problem: Problem })[] = [];
  private attempt: Attempt | undefined;
  private wake: (() => void) | undefined;
  /** What the reply ends with, once it was stopped. */
  private halted: LastEvent | undefined;
  private count = 0;

  constructor(
    private readonly boot: Boot,
    private readonly making: Making,
  ) {}

  async run(): Promise<void> {
    try {
      this.finish(await this.answered());
    } catch (error) {
      this.boot.log.error({ error, reply: this.making.head.reply }, "a reply could not be made");
      await this.attempt?.abort();
      this.finish({
        ...this.nothing(),
        last: { event: "problem", data: problem("internal", "The reply could not be made; the terminal says why.") },
      });
    }
  }

  /** The attempt that the reply ends with: one that went well, or that had text, or the last there was. */
  private async answered(): Promise<Attempted> {
    let last = this.nothing();
    for (const [place, candidate] of this.making.candidates.entries()) {
      const context = candidate.context();
      if (context.kind === "refused") {
        last = { ...this.nothing(), last: { event: "problem", data: context.problem } };
        this.fail(candidate, context.problem);
        continue;
      }
      if (place > 0 && !(await this.announce(0, candidate))) return this.stopped(last);
      for (let tries = 0; ; tries++) {
        this.count += 1;
        this.attempt = new Attempt(this.boot, this.making, candidate, context, this.count);
        last = await this.attempt.run();
        if (last.last.event === "end" || last.text !== "" || last.thought !== "" || this.halted) return last;
        const failure = last.last.data;
        this.fail(candidate, failure);
        const wait = this.waitAfter(failure, candidate.provider, tries, last);
        if (wait === undefined) break;
        if (!(await this.announce(wait, candidate))) return this.stopped(last);
      }
    }
    return last;
  }

  private fail({ provider, model }: Making["candidates"][number], failure: Problem): void {
    this.failures.push({ provider: provider.name, model: model.name, problem: failure });
  }

  /** Seconds to wait before the same call is made again; undefined where that makes no sense. */
  private waitAfter(
    failure: Problem,
    provider: { id: string; retries: number },
    tries: number,
    last: Attempted,
  ): number | undefined {
    // a token can be taken back before its time: fetching another is worth one try
    if (
      failure.kind === "unauthorised" &&
      this.boot.credentials.forget({ id: provider.id }) &&
      tries === 0 &&
      last.status !== null
    )
      return 0;
    if (!passing.has(failure.kind) || tries >= provider.retries) return undefined;
    const usual = firstWait * 2 ** tries * (0.75 + Math.random() / 2);
    const wait = failure.retryAfter ?? usual;
    return wait <= longestWait ? wait : undefined;
  }

  /** Tells readers what comes next and why, and waits; false when the reply was stopped in between. */
  private async announce(seconds: number, { provider, model }: Making["candidates"][number]): Promise<boolean> {
    const because = this.failures.at(-1)?.problem;
    if (because)
      this.boot.hub.publish(this.making.head.reply, {
        event: "attempt",
        data: {
          attempt: this.count + 1,
          provider: provider.name,
          model: model.name,
          after: Math.round(seconds * 10) / 10,
          because,
        },
      });
    if (seconds > 0 && !this.halted)
      await new Promise<void>((resolve) => {
        const timer = setTimeout(resolve, seconds * 1000);
        this.wake = () => {
          clearTimeout(timer);
          resolve();
        };
      });
    return this.halted === undefined;
  }

  /** Ends the making early; resolves when the provider's connection is closed. */
  async stop(last: LastEvent): Promise<void> {
    this.halted ??= last;
    this.wake?.();
    await this.attempt?.stop(this.halted);
  }

  /** Writes that the reply failed, with what is safe to write: for when its own end could not be written. */
  storeFailure(failure: Problem): void {
    const { id, facts } = this.making.reply;
    this.boot.conversations.finishReply({
      id,
      state: "failed",
      text: this.making.begun.text,
      tokens: this.making.begun.tokens,
      facts: { ...facts, problem: failure },
    });
  }

  private stopped(last: Attempted): Attempted {
    return { ...last, last: this.halted ?? { event: "end", data: { reason: "stopped" } } };
  }

  private nothing(): Attempted {
    const [candidate] = this.making.candidates;
    return {
      candidate: { provider: candidate.provider.name, model: candidate.model.name },
      last: { event: "end", data: { reason: "stopped" } },
      status: null,
      text: "",
      thought: "",
    };
  }

  /** Ends the reply: stores what came of it, and tells its readers. */
  private finish({ candidate, last, text, thought, usage, firstTextMs, trace, carry }: Attempted): void {
    const { head, begun, reply } = this.making;
    // one that could not be written has its end already
    if (!this.boot.hub.isLive(head.reply)) return;
    const { state } = [last as ReplyEvent].reduce(fold, emptyReply);
    const isFallback = candidate.provider !== reply.facts.provider || candidate.model !== reply.facts.model;
    const facts: ReplyFacts = {
      ...reply.facts,
      ...candidate,
      ...(thought === "" ? {} : { thought }),
      ...(usage ? { usage } : {}),
      ...(last.event === "problem" ? { problem: last.data } : {}),
      ...(firstTextMs === undefined ? {} : { firstTextMs: Math.round(firstTextMs - this.started) }),
      totalMs: Math.round(performance.now() - this.started),
      ...(trace ? { trace } : {}),
      ...(this.count > 1 ? { attempts: this.count } : {}),
      ...(this.failures.length > 0 ? { failures: this.failures } : {}),
      ...(isFallback ? { insteadOf: { provider: reply.facts.provider, model: reply.facts.model } } : {}),
      ...(carry === undefined ? {} : { carry }),
    };
    const tokens = begun.tokens + (usage ? usage.output - (usage.thought ?? 0) : 0);
    this.boot.hub.commitAlong(head.reply, () => {
      this.boot.conversations.finishReply({ id: head.reply, state, text: begun.text + text, tokens, facts });
      return undefined;
    });
    this.boot.hub.publish(
      head.reply,
      ...(usage ? [{ event: "usage", data: usage } as const] : []),
      last satisfies Last,
    );
  }
}
