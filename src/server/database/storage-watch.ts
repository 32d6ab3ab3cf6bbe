import type { Problem } from "@/core/problem/problem";
import { storageProblem } from "./storage";

/**
 * Why the data folder can't be written, by those who write into it in the background: each says how its last write
 * went, so that health knows of all of them.
 */
export class StorageWatch {
  private readonly failures = new Map<string, Problem>();

  /** Why one of them can't write; undefined while all can. */
  get problem(): Problem | undefined {
    return this.failures.values().next().value;
  }

  /** Takes note of an error of a writer; gives whether it is one of the data folder, so that it passes. */
  note(writer: string, error: unknown): boolean {
    const failure = storageProblem(error);
    if (failure) this.failures.set(writer, failure);
    return failure !== undefined;
  }

  /** A writer could write. */
  clear(writer: string): void {
    this.failures.delete(writer);
  }
}

/** A parameter that has `storage`. */
export interface HasStorage {
  /** Why those who write in the background can't. */
  storage: StorageWatch;
}
