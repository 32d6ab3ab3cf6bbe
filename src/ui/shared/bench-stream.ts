import { benchEventSchema, changedAppSchema, changedSchema } from "@/contract/replies";
import type { LiveReplies } from "./live-replies";

/** Milliseconds until a stream that ended for good is begun anew, by how often that failed. */
const waits = [1_000, 2_000, 5_000, 10_000];

/**
 * The one stream of a tab: it tells the live replies what comes. The browser comes back by itself with the last
 * position that it had; a stream that it gives up on is begun anew. Positions are checked: where one is missing,
 * what was read is read again.
 */
export class BenchStream {
  /** Whether the server is heard. */
  isHeard = true;
  private source: EventSource | undefined;
  /** The position of the last event. */
  private last: number | undefined;
  private tries = 0;
  private onMissed = (_isFirst: boolean) => {};
  private wasOpen = false;
  private readonly listeners = new Set<() => void>();

  /** @param make opens a stream, as the browser does */
  constructor(
    private readonly make: () => EventSource,
    private readonly live: LiveReplies,
  ) {}

  /**
   * Opens it, once.
   * @param onMissed called when what was read before may have missed an event: at each opening, when the server says
   *   so, and where a position is missing; with whether it is the first opening
   */
  open(onMissed: (isFirst: boolean) => void): void {
    this.onMissed = onMissed;
    if (!this.source) this.begin();
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  private begin(): void {
    const source = this.make();
    this.source = source;
    this.last = undefined;
    source.onopen = () => {
      this.tries = 0;
      this.setHeard(true);
      this.onMissed(!this.wasOpen);
      this.wasOpen = true;
    };
    source.onerror = () => {
      this.setHeard(false);
      if (source.readyState !== source.CLOSED) return;
      setTimeout(() => this.begin(), waits[Math.min(this.tries++, waits.length - 1)]);
    };
    source.addEventListener("behind", ({ lastEventId }) => {
      this.last = Number(lastEventId);
      this.miss();
    });
    source.addEventListener("changed", ({ data }) => {
      const heard = changedSchema.safeParse(JSON.parse(data));
      if (heard.success) this.live.hearChange(heard.data.conversation);
    });
    source.addEventListener("app", ({ data }) => {
      const heard = changedAppSchema.safeParse(JSON.parse(data));
      if (heard.success) this.live.hearApp(heard.data);
    });
    source.addEventListener("jobs", () => this.live.hearJobs());
    source.onmessage = ({ data, lastEventId }) => {
      const position = Number(lastEventId);
      if (this.last !== undefined && position > this.last + 1) this.miss();
      this.last = position;
      const heard = benchEventSchema.safeParse(JSON.parse(data));
      if (heard.success) this.live.hear(heard.data);
      else console.error(`An event of the stream is not as expected: ${heard.error.message}`);
    };
  }

  private miss(): void {
    this.live.clear();
    this.onMissed(false);
  }

  private setHeard(isHeard: boolean): void {
    if (this.isHeard === isHeard) return;
    this.isHeard = isHeard;
    for (const listener of this.listeners) listener();
  }
}
