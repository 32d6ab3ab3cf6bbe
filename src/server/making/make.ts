import { type Problem, problem } from "@/core/problem/problem";
import type { LastEvent } from "@/core/reply/events";
import { Attempt } from "./attempt";
import { stepAfter } from "./retry";
import type { Attempted, Context, Made, Making, Means, Order, Sink, Speaker } from "./types";

/**
 * Has words of a model made, in as many attempts as it takes: for each speaker what it is to be sent is
 * gathered, encoded, sent, and its answer read. What comes goes to the sink.
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
  /** What all attempts cost so far. */
  private paid = 0;

  constructor(
    private readonly order: Order,
    private readonly sink: Sink,
    private readonly means: Means,
  ) {}

  async made(): Promise<Made> {
    try {
      const attempted = await this.attempted();
      const paidBefore = this.paid - (attempted.usage?.price ?? 0);
      return { ...attempted, attempts: this.count, paidBefore, failures: this.failures };
    } catch (error) {
      await this.attempt?.abort();
      throw error;
    }
  }

  async stop(last: LastEvent): Promise<void> {
    this.halted ??= last;
    this.stopped.abort();
    await this.attempt?.stop(this.halted);
  }

  /** The attempt that it ends with: one that went well, or that had text, or the last there was. */
  private async attempted(): Promise<Attempted> {
    let last: Attempted | undefined;
    for (const speaker of this.order.speakers) {
      if (last) this.announce(0, speaker);
      const context = await this.order.gather(speaker);
      if (this.halted) return this.ended(speaker);
      if (context.kind === "refused") {
        last = this.ended(speaker, { event: "problem", data: context.problem });
        this.fail(speaker, context.problem);
      } else {
        last = await this.tried(speaker, context);
        if (last.takes[0].last.event === "end" || hasText(last) || this.halted) return last;
      }
    }
    return last ?? this.ended(this.order.speakers[0]);
  }

  /** What came of a speaker, asked as often as makes sense. */
  private async tried(speaker: Speaker, context: Extract<Context, { kind: "ready" }>): Promise<Attempted> {
    const { connection } = speaker;
    for (let tries = 0; ; tries++) {
      const attempted = await this.sent(speaker, context);
      const { last } = attempted.takes[0];
      if (last.event === "end" || hasText(attempted) || this.halted) return attempted;
      this.fail(speaker, last.data);
      const hasToken = attempted.status !== null && this.means.hasToken(connection);
      const chance = Math.random();
      const step = stepAfter(last.data, { tries, retries: connection.retries, hasToken, chance });
      if (step.kind === "give-up") return attempted;
      if (step.kind === "renew") this.means.forget(connection);
      const after = step.kind === "again" ? step.after : 0;
      this.announce(after, speaker);
      if (!(await this.waited(after))) return this.ended(speaker);
    }
  }

  /** One attempt, once the provider has room for it. */
  private async sent(speaker: Speaker, context: Extract<Context, { kind: "ready" }>): Promise<Attempted> {
    const { connection } = speaker;
    const most = connection.atOnce;
    const full = () =>
      this.announce(
        0,
        speaker,
        problem("at-capacity", `${connection.name} takes ${most} calls at once, and as many are under way.`),
      );
    const leave = await this.means.gate.enter(connection.id, most, this.order.rank, full, this.stopped.signal);
    if (!leave) return this.ended(speaker);
    try {
      this.count += 1;
      this.attempt = new Attempt(this.order, this.sink, this.means, speaker, context, this.count);
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
  private announce(seconds: number, { connection, model }: Speaker, because = this.failures.at(-1)?.problem): void {
    if (!because) return;
    const after = Math.round(seconds * 10) / 10;
    this.sink.next({ attempt: this.count + 1, provider: connection.slug, model: model.name, after, because });
  }

  /** Waits; false where it was stopped in between. */
  private async waited(seconds: number): Promise<boolean> {
    const { signal } = this.stopped;
    if (seconds > 0 && !signal.aborted)
      await new Promise<void>((resolve) => {
        const timer = setTimeout(resolve, seconds * 1000);
        signal.addEventListener("abort", () => {
          clearTimeout(timer);
          resolve();
        });
      });
    return !signal.aborted;
  }

  /** What stands for an attempt where none was made. */
  private ended({ connection, model }: Speaker, last = this.halted ?? stopped): Attempted {
    const speaker = { provider: connection.slug, model: model.name };
    return { speaker, takes: [{ text: "", thought: "", last }], status: null };
  }
}

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

function hasText({ takes }: Attempted): boolean {
  return takes.some(({ text, thought }) => text !== "" || thought !== "");
}
