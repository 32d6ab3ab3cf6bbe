import type { Logger } from "pino";
import type { Database } from "./database";

/** Milliseconds between two looks, and rows that have changed since the last checkpoint before there is another. */
const often = 500;
const enough = 1_000;

/**
 * Has what was written brought from the write-ahead log into the database by another thread: done along with a commit
 * it would hold up everything for a tenth of a second. SQLite does it by itself only where that thread falls far behind.
 * @param checkpoint asks the other thread for it
 * @returns how to end that
 */
export function keepCheckpoints(database: Database, checkpoint: () => Promise<unknown>, log: Logger): () => void {
  database.pragma("wal_autocheckpoint = 10000");
  const changes = database.prepare<[]>("SELECT total_changes()").pluck();
  let done = changes.get() as number;
  let isUnderWay = false;
  const timer = setInterval(() => {
    const now = changes.get() as number;
    if (isUnderWay || now - done < enough) return;
    done = now;
    isUnderWay = true;
    checkpoint()
      .catch((error) => log.error({ error }, "the write-ahead log could not be brought in; it is tried again"))
      .finally(() => {
        isUnderWay = false;
      });
  }, often);
  timer.unref();
  return () => clearInterval(timer);
}
