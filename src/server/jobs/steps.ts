import { setMaxListeners } from "node:events";
import { problem } from "@/core/problem/problem";
import { isRefusal, Refusal } from "../ground/refusal";
import type { HasJobs } from "./job-store";
import type { HasSteps, Step } from "./step-store";

/** What came of a step. */
export interface StepEnd {
  /** What is kept of it. */
  of?: unknown;
  /** Millionths that it took. */
  price: number;
}

/** How the steps of a job are done. */
export interface StepsOf<W> {
  job: string;
  /** Millionths that all of it may take; null for any price. */
  mostPrice: number | null;
  /** How many at once: 1 where each goes on from the one before. */
  atOnce: number;
  signal: AbortSignal;
  /** Does one. A refusal that it throws is the end of that step alone; where each goes on from the one before, of all. */
  work(step: Step<W>, signal: AbortSignal): Promise<StepEnd>;
  /** Is told after each. */
  tell(): void;
}

/**
 * Does what is left of the steps of a job, several at once. What ended is never done again, and what a dead process cut
 * off once more. Whatever a step throws that is no refusal ends all of it: the steps that were under way wait again.
 * @throws {Refusal} `over-limit` where it costs more than it may
 */
export async function doSteps<W>({ jobs, steps }: HasJobs & HasSteps, all: StepsOf<W>): Promise<void> {
  const { job, mostPrice, atOnce, work, tell } = all;
  steps.recover(job, problem("interrupted", "The server was stopped twice while this was being done."));
  const failed = new AbortController();
  const signal = AbortSignal.any([all.signal, failed.signal]);
  // each step that is under way hears of it
  setMaxListeners(0, signal);
  const allowance = new Allowance(mostPrice);
  const one = async (step: Step<W>): Promise<void> => {
    try {
      const { of, price } = await work(step, signal);
      steps.end(job, step.place, { kind: "done", of }, price);
      allowance.learn(price);
    } catch (error) {
      if (!isRefusal(error) || signal.aborted || atOnce === 1) {
        steps.putBack(job, step.place);
        throw error;
      }
      steps.end(job, step.place, { kind: "failed", problem: error.problem }, 0);
    }
    jobs.touch(job, Date.now());
    tell();
  };
  const worker = async (): Promise<void> => {
    for (;;) {
      signal.throwIfAborted();
      const { done, of, price } = steps.standing(job);
      if (done < of && !allowance.allows(price)) {
        if (allowance.isIdle) throw overLimit(allowance.most);
        await allowance.nextEnd();
        continue;
      }
      const step = steps.claim<W>(job, atOnce === 1);
      if (!step) return;
      await allowance.during(() => one(step));
    }
  };
  const workers = Array.from({ length: atOnce }, () =>
    worker().catch((error) => {
      failed.abort(error);
      throw error;
    }),
  );
  // all of them have ended before it is said why
  await Promise.allSettled(workers);
  await Promise.all(workers);
}

/**
 * How many steps may be under way so that all of them keep within a price: each is taken to cost what the dearest did so
 * far. Until one has ended nothing is known of them, and they are done one after another.
 */
class Allowance {
  readonly most: number;
  private underWay = 0;
  private dearest: number | undefined;
  private waiting: (() => void)[] = [];

  /** @param most in millionths; null for any price */
  constructor(most: number | null) {
    this.most = most ?? Number.POSITIVE_INFINITY;
  }

  get isIdle(): boolean {
    return this.underWay === 0;
  }

  /** Whether one more may be begun, where so much is spent. */
  allows(spent: number): boolean {
    if (this.most === Number.POSITIVE_INFINITY) return true;
    if (this.dearest === undefined) return this.isIdle && spent < this.most;
    return spent < this.most && spent + (this.underWay + 1) * this.dearest <= this.most;
  }

  learn(price: number): void {
    this.dearest = Math.max(this.dearest ?? 0, price);
  }

  async during(work: () => Promise<void>): Promise<void> {
    this.underWay += 1;
    try {
      await work();
    } finally {
      this.underWay -= 1;
      for (const go of this.waiting.splice(0)) go();
    }
  }

  /** Resolves when one that is under way has ended. */
  nextEnd(): Promise<void> {
    return new Promise((resolve) => this.waiting.push(resolve));
  }
}

function overLimit(most: number): Refusal {
  const limit = `It was to cost ${most / 1_000_000} at most, and what is left of that may not be enough.`;
  return new Refusal(
    problem("over-limit", limit, { advice: "Begin it again with another limit; what was answered is kept." }),
  );
}
