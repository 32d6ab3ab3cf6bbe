import type { Logger } from "pino";
import type { Work } from "@/contract/jobs";
import { problem } from "@/core/problem/problem";
import { isRefusal } from "../refusal";
import type { JobStore, StoredJob } from "./job-store";

/** How a kind of work is done. */
export interface Kind {
  /** Does a job, or what is left of it; gives how it stands then. It throws where it is stopped, or can't be done. */
  run(job: StoredJob, signal: AbortSignal): Promise<"done" | "waiting">;
  /** What is done where it was stopped, or failed. */
  undo?(job: string): void;
  /** What is done where a stop of the process left it waiting; true where it was begun, and is to go on. */
  left?(job: StoredJob): boolean;
  /** Lets go of what is held for it. */
  leave?(job: string): void;
}

/** What running jobs needs of the process that it runs in. */
export interface JobMeans {
  jobs: JobStore;
  log: Logger;
  /** Tells those who look that jobs changed. */
  tell(): void;
  isClosing(): boolean;
  kinds: Record<Work["kind"], Kind>;
}

/** Runs jobs, and stops them. */
export class JobRunner {
  private readonly running = new Map<string, { control: AbortController; ended: Promise<void> }>();

  constructor(private readonly means: JobMeans) {}

  /** Begins a job, or goes on with it; it never throws. */
  start(id: string): void {
    const { jobs, tell } = this.means;
    const job = jobs.byId(id);
    if (this.running.has(id) || !job) return;
    jobs.setState(id, "running", Date.now());
    const control = new AbortController();
    const ended = this.run(job, control.signal);
    this.running.set(id, { control, ended });
    tell();
  }

  /** Stops a job and waits until it has ended; one that is over stays as it is. */
  async stop(id: string): Promise<void> {
    const { jobs, kinds, tell } = this.means;
    const running = this.running.get(id);
    if (running) {
      running.control.abort(new Error("It was stopped."));
      await running.ended;
      return;
    }
    const job = jobs.byId(id);
    if (job?.state !== "waiting") return;
    kinds[job.work.kind].undo?.(id);
    jobs.setState(id, "stopped", Date.now());
    tell();
  }

  /** Goes on with what a stop of the process left. */
  resume(): void {
    const { jobs, kinds } = this.means;
    for (const job of jobs.waitingSince(Number.MAX_SAFE_INTEGER))
      if (kinds[job.work.kind].left?.(job)) this.start(job.id);
    for (const { id } of jobs.running()) this.start(id);
  }

  /** Stops what waits since before a moment: whoever was asked did not answer. */
  async letGo(before: number): Promise<void> {
    for (const { id } of this.means.jobs.waitingSince(before)) await this.stop(id);
  }

  private async run(job: StoredJob, signal: AbortSignal): Promise<void> {
    const { jobs, kinds, tell, isClosing } = this.means;
    const { id } = job;
    const kind = kinds[job.work.kind];
    try {
      // whoever began it is answered first
      await new Promise(setImmediate);
      signal.throwIfAborted();
      jobs.setState(id, await kind.run(job, signal), Date.now());
    } catch (error) {
      // what the end of the process cuts off is gone on with at the next start
      if (isClosing()) return;
      this.giveUp(id, kind, signal.aborted, error);
    } finally {
      this.running.delete(id);
      if (!isClosing()) {
        kind.leave?.(id);
        tell();
      }
    }
  }

  private giveUp(id: string, kind: Kind, wasStopped: boolean, error: unknown): void {
    const { jobs, log } = this.means;
    kind.undo?.(id);
    if (wasStopped) {
      jobs.setState(id, "stopped", Date.now());
      return;
    }
    if (!isRefusal(error)) log.error({ error, job: id }, "a job could not be done");
    const failure = isRefusal(error)
      ? error.problem
      : problem("internal", "The job could not be done; the terminal says why.");
    jobs.setState(id, "failed", Date.now(), failure);
  }
}
