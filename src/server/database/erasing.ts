import type { Logger } from "pino";
import type { Database } from "./database";
import type { Slices } from "./slices";
import type { StorageWatch } from "./storage-watch";

/** Milliseconds until it is tried again. */
const patience = 1_000;
/** Who writes, to those who watch the data folder. */
const writer = "erasing";
/** How much longer it rests than it took: what is deleted meanwhile is erased together. */
const restFor = 2;

/**
 * Has what was deleted gone from every byte of the data folder. Rows that are deleted are overwritten by SQLite itself
 * (`secure_delete`); what is left of them then are words in indices, which keep what they lost until their parts are
 * brought together, and the write-ahead log. Both are done by another thread. What a stop of the process leaves is gone
 * on with at the next start.
 */
export class Erasing {
  private readonly sql;
  private running: Promise<void> | undefined;
  private isClosed = false;

  /**
   * @param removal deletes what was marked as leaving, which comes first
   * @param erase does the rest in another thread; false where a reader still needs the write-ahead log
   */
  constructor(
    database: Database,
    private readonly removal: Slices,
    private readonly erase: () => Promise<boolean>,
    private readonly storage: StorageWatch,
    private readonly log: Logger,
  ) {
    this.sql = {
      want: database.prepare("INSERT OR REPLACE INTO erasing (id, since) VALUES (1, ?)"),
      since: database.prepare<[], number>("SELECT since FROM erasing").pluck(),
      done: database.prepare("DELETE FROM erasing WHERE since = ?"),
    };
  }

  /** Takes note that something was deleted, also for the next start; call it along with the deletion. */
  want(now: number): void {
    this.sql.want.run(Math.max(now, (this.sql.since.get() ?? 0) + 1));
  }

  /** Erases what there is; resolves when all of it is gone, or the process is being closed. */
  start(): Promise<void> {
    this.running ??= this.run().finally(() => {
      this.running = undefined;
    });
    return this.running;
  }

  /** Leaves off. */
  close(): void {
    this.isClosed = true;
  }

  private async run(): Promise<void> {
    while (!this.isClosed) {
      const since = this.sql.since.get();
      if (since === undefined) return;
      const began = performance.now();
      const isGone = await this.attempt(since);
      if (isGone === "all" || this.isClosed) return;
      await rest(isGone === "some" ? restFor * (performance.now() - began) : patience);
    }
  }

  /** Erases once; "some" where more was deleted meanwhile. It never throws. */
  private async attempt(since: number): Promise<"all" | "some" | "none"> {
    try {
      await this.removal.start();
      if (this.isClosed || !(await this.erase())) return "none";
      const isAll = this.sql.done.run(since).changes > 0;
      this.storage.clear(writer);
      return isAll ? "all" : "some";
    } catch (error) {
      if (this.isClosed) return "none";
      this.storage.note(writer, error);
      this.log.error({ error }, "what was deleted is not gone from every byte yet; it is tried again");
      return "none";
    }
  }
}

function rest(milliseconds: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, milliseconds).unref());
}

/** A parameter that has `erasing`. */
export interface HasErasing {
  erasing: Erasing;
}
