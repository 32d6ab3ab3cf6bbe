import type { Logger } from "pino";
import type { Database } from "./database";
import type { StorageWatch } from "./storage-watch";

/** How much longer a rest is than the slice before it. */
const restFor = 3;
/** Milliseconds until it is tried again where the data folder can't be written. */
const patience = 1000;

/**
 * Long work on the database that nobody waits for. It is done in slices, each in one transaction of some
 * milliseconds, with longer rests between them, so that no reply waits for it; what a stop of the
 * process leaves is gone on with at the next start.
 */
export class Slices {
  private running: Promise<void> | undefined;
  private isClosed = false;

  /**
   * @param slice does some of the work; false when nothing is left
   * @param saying what the log says where it could not be done
   */
  constructor(
    private readonly database: Database,
    private readonly storage: StorageWatch,
    private readonly log: Logger,
    private readonly saying: string,
    private readonly slice: () => boolean,
  ) {}

  /** Begins, unless it is under way; resolves when nothing is left. */
  start(): Promise<void> {
    this.running ??= this.run();
    return this.running;
  }

  /** Leaves off after the slice that is being done. */
  close(): void {
    this.isClosed = true;
  }

  private async run(): Promise<void> {
    // whoever asked for it is answered first
    await rest(0);
    while (!this.isClosed) {
      const began = performance.now();
      try {
        const isOver = !this.database.transaction(this.slice).immediate();
        this.storage.clear(this.saying);
        if (isOver) break;
      } catch (error) {
        this.log.error({ error }, `${this.saying}; it is tried again later`);
        if (!this.storage.note(this.saying, error)) break;
        await rest(patience);
      }
      await rest(restFor * (performance.now() - began));
    }
    this.running = undefined;
  }
}

function rest(milliseconds: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, milliseconds));
}

/** A parameter that has `removal`. */
export interface HasRemoval {
  /** Deletes what was marked as leaving. */
  removal: Slices;
}

/** A parameter that has `packing`. */
export interface HasPacking {
  /** Packs the bytes of dispatches that have ended, and the events of older replies. */
  packing: Slices;
}
