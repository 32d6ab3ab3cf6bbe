import { setTimeout as rest } from "node:timers/promises";
import type { Logger } from "pino";
import type { Work } from "@/core/jobs/work";
import { type Problem, problem } from "@/core/problem/problem";
import type { StorageWatch } from "../database/storage-watch";
import { isRefusal } from "../ground/refusal";
import type { JobStore, StoredJob } from "./job-store";

/** How a kind of work is done. */
export interface Kind {
  /**
   * Does a job, or what is left of it; gives how it stands then. It throws where it is stopped, or can't be done.
   * `wrote` is called where some of it could be written, so that health knows before all is.
   */
  run(job: StoredJob, signal: AbortSignal, wrote: () => void): Promise<"done" | "waiting">;
  /** What is done where it was stopped, or failed. */
  undo?(job: string): void;
  /** What is done where a stop of the process left it waiting; true where it was begun, and is to go on. */
  left?(job: StoredJob): boolean;
  /** Lets go of what is held for it. */
  leave?(job: string): void;
  /** Whether it is cut off in good order where the process ends, and gone on with at the next start. */
  isLeftWhole?: true;
}

/** What running jobs needs of the process that it runs in. */
export interface JobMeans {
  jobs: JobStore;
  storage: StorageWatch;
  log: Logger;
  /** Tells those who look that jobs changed. */
  tell(): void;
  isClosing(): boolean;
  kinds: Record<Work["kind"], Kind>;
}

/** How a job ended, or why it waits. */
interface End {
  state: "done" | "waiting" | "stopped" | "failed";
  problem: Problem | null;
}

/** Who writes, to those who watch the data folder. */
const writer = "jobs";
/** Milliseconds until it is tried again where the data folder can't be written. */
const patience = 1000;

/**
 * Runs jobs, and stops them. While the data folder can't be written a job waits, and goes on from where it was; how
 * one ended is known at once, and written as soon as that can be done.
 */
export class JobRunner {
  private readonly running = new Map<string, { control: AbortController; ended: Promise<void> }>();
  /** How jobs ended of which that could not be written yet. */
  private readonly unwritten = new Map<string, End>();

  constructor(private readonly means: JobMeans) {}

  /** Begins a job, or goes on with it. @throws where that can't be written */
  start(id: string): void {
    const { jobs, tell } = this.means;
    const job = jobs.byId(id);
    if (this.running.has(id) || this.unwritten.has(id) || !job) return;
    if (job.state !== "running") jobs.setState(id, "running", Date.now());
    const control = new AbortController();
    const ended = this.run(job, control.signal);
    this.running.set(id, { control, ended });
    tell();
  }

  /** Stops a job and waits until it has ended; one that is over stays as it is. */
  async stop(id: string): Promise<void> {
    const running = this.running.get(id);
    if (running) {
      running.control.abort(new Error("It was stopped."));
      await running.ended;
      return;
    }
    const job = this.means.jobs.byId(id);
    if (job?.state !== "waiting" || this.unwritten.has(id)) return;
    this.end(job, { state: "stopped", problem: null });
    this.means.tell();
  }

  /** A job as it stands, also where that could not be written yet. */
  standing(job: StoredJob): StoredJob {
    return { ...job, ...this.unwritten.get(job.id) };
  }

  /** Cuts off what can be gone on with; resolves when that has ended. The process is being closed. */
  async leave(): Promise<void> {
    const { jobs, kinds } = this.means;
    const left = [...this.running].filter(([id]) => {
      const work = jobs.byId(id)?.work;
      return work && kinds[work.kind].isLeftWhole;
    });
    for (const [, { control }] of left) control.abort(new Error("The server is being stopped."));
    await Promise.all(left.map(([, { ended }]) => ended));
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
    const { tell, isClosing, kinds } = this.means;
    const { id, work } = job;
    const leave = () => kinds[work.kind].leave?.(id);
    // whoever began it is answered first
    await new Promise(setImmediate);
    let end = await this.attempt(id, signal);
    while (!end && !isClosing()) {
      leave();
      tell();
      await rest(patience, undefined, { signal }).catch(() => signal.reason);
      end = await this.attempt(id, signal);
    }
    this.running.delete(id);
    const isCutOff = end?.state !== "done" && end?.state !== "waiting" && isClosing();
    // what the end of the process cuts off is gone on with at the next start
    if (end && !isCutOff) this.end(job, end);
    if (isClosing()) return;
    leave();
    tell();
  }

  /** Does what is left of a job; gives nothing where the data folder can't be written just now. */
  private async attempt(id: string, signal: AbortSignal): Promise<End | undefined> {
    const { jobs, kinds, storage, log } = this.means;
    try {
      signal.throwIfAborted();
      const job = jobs.byId(id);
      const state = job ? await kinds[job.work.kind].run(job, signal, () => storage.clear(writer)) : "done";
      storage.clear(writer);
      return { state, problem: null };
    } catch (error) {
      if (signal.aborted) return { state: "stopped", problem: null };
      if (isRefusal(error)) return { state: "failed", problem: error.problem };
      if (storage.note(writer, error)) {
        log.error({ error, job: id }, "a job waits, since the data folder can't be written");
        return undefined;
      }
      log.error({ error, job: id }, "a job could not be done");
      return { state: "failed", problem: problem("internal", "The job could not be done; the terminal says why.") };
    }
  }

  /** Undoes what was stopped or failed, and writes how it ended: now, or once that can be written. It never throws. */
  private end(job: StoredJob, end: End): void {
    const { jobs, kinds, storage, log, isClosing } = this.means;
    const { id, work } = job;
    const steps = [
      () => {
        if (end.state === "stopped" || end.state === "failed") kinds[work.kind].undo?.(id);
      },
      () => jobs.setState(id, end.state, Date.now(), end.problem),
    ];
    for (const step of steps)
      try {
        step();
      } catch (error) {
        if (!storage.note(writer, error)) {
          log.error({ error, job: id }, "what a job leaves behind could not be put in order");
          continue;
        }
        this.unwritten.set(id, end);
        setTimeout(() => {
          if (!isClosing()) this.end(job, end);
        }, patience).unref();
        return;
      }
    storage.clear(writer);
    if (this.unwritten.delete(id)) this.means.tell();
  }
}

/** A parameter that has `runner`. */
export interface HasRunner {
  runner: JobRunner;
}
