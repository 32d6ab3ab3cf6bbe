import type { Logger } from "pino";
import type { Database } from "./database";
import type { StorageWatch } from "./storage-watch";

/** Milliseconds between two looks, and rows that have changed since it was last settled before it is again. */
const often = 500;
const enough = 1_000;
/** Who writes, to those who watch the data folder. */
const writer = "settling";

/**
 * Has another thread do what would hold up everything for a tenth of a second if it were done along with a commit: it
 * brings what was written from the write-ahead log into the database, and parts of the index of words together. SQLite
 * does it by itself only where that thread falls far behind.
 * @param settle asks the other thread for it
 * @returns how to end that
 */
export function keepSettled(
  database: Database,
  settle: () => Promise<unknown>,
  storage: StorageWatch,
  log: Logger,
): () => void {
  database.pragma("wal_autocheckpoint = 10000");
  const changes = database.prepare<[]>("SELECT total_changes()").pluck();
  let done = changes.get() as number;
  let isUnderWay = false;
  const timer = setInterval(() => {
    const now = changes.get() as number;
    const before = done;
    if (isUnderWay || now - done < enough) return;
    done = now;
    isUnderWay = true;
    settle()
      .then(() => storage.clear(writer))
      .catch((error) => {
        storage.note(writer, error);
        done = before;
        log.error({ error }, "the database could not be settled; it is tried again");
      })
      .finally(() => {
        isUnderWay = false;
      });
  }, often);
  timer.unref();
  return () => clearInterval(timer);
}
