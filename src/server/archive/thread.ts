import type { Worker } from "node:worker_threads";
import type { Logger } from "pino";
import { fileToRun } from "../ground/run-file";
import { type CarriedError, errorFrom } from "./carried-error";

/** What a thread answers: each method by its name, from one value to another, both of which can be copied. */
// biome-ignore lint/suspicious/noExplicitAny: methods take what they take
export type Methods = Record<string, (input: any) => unknown>;

/** A call to a thread, and what it answers. */
export interface ThreadCall {
  id: number;
  method: string;
  input: unknown;
}
export type ThreadAnswer = { id: number; value: unknown } | { id: number; error: CarriedError };

interface Waiting {
  resolve(value: never): void;
  reject(error: Error): void;
}

/**
 * A thread of this process for work that takes long, with a connection of its own to the database. It is begun with
 * the first call, and again after it came down; calls that it leaves are refused.
 */
export class Thread<M extends Methods> {
  private worker: Worker | undefined;
  private readonly waiting = new Map<number, Waiting>();
  private last = 0;

  /**
   * @param name of the file that it runs
   * @param given what it begins with
   */
  constructor(
    private readonly name: Parameters<typeof fileToRun>[0],
    private readonly given: unknown,
    private readonly log: Logger,
  ) {}

  /** Calls a method; rejects with what it throws. */
  call<K extends keyof M & string>(method: K, input: Parameters<M[K]>[0]): Promise<Awaited<ReturnType<M[K]>>> {
    const worker = this.worker ?? this.begin();
    this.last += 1;
    const id = this.last;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      worker.ref();
      worker.postMessage({ id, method, input } satisfies ThreadCall);
    });
  }

  /** Ends it at once. */
  async close(): Promise<void> {
    await this.worker?.terminate();
  }

  private begin(): Worker {
    // a thread runs a file as it is: Next must not look for it among what it bundles
    const threads = process.getBuiltinModule("node:worker_threads");
    const worker = new threads.Worker(`${process.cwd()}/src/server/archive/begin.mjs`, {
      workerData: { file: fileToRun(this.name), given: this.given },
      execArgv: [],
    });
    this.worker = worker;
    worker.on("message", (answer: ThreadAnswer) => this.take(answer));
    worker.on("error", (error) => this.log.error({ error }, "a thread came down; it is begun anew when it is needed"));
    worker.on("exit", () => {
      if (this.worker === worker) this.worker = undefined;
      for (const { reject } of this.waiting.values()) reject(new Error("The thread has ended."));
      this.waiting.clear();
    });
    return worker;
  }

  private take(answer: ThreadAnswer): void {
    const call = this.waiting.get(answer.id);
    this.waiting.delete(answer.id);
    // an idle thread keeps no process alive
    if (this.waiting.size === 0) this.worker?.unref();
    if ("error" in answer) call?.reject(errorFrom(answer.error));
    else call?.resolve(answer.value as never);
  }
}
