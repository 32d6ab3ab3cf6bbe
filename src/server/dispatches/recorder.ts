import type { ReplyHub } from "../replies/hub";
import type { DispatchStore } from "./dispatch-store";

const traceParts = 24;
/** Bytes that are written together, and milliseconds after which they are in any case. */
const partSize = 64 * 1024;
const partMs = 1000;

/**
 * Keeps the bytes of one dispatch with their arrival times. They are written in large parts along
 * with events: what a reader got is in the events, and the last second of raw bytes may be lost.
 */
export class Recorder {
  private pending: Buffer[] = [];
  private arrivals: string[] = [];
  private firstAt = 0;
  private size = 0;
  private isDue = false;
  private seq = 0;
  private texts: { at: number; length: number }[] = [];

  constructor(
    private readonly dispatch: string,
    private readonly store: DispatchStore,
    private readonly hub: ReplyHub,
  ) {}

  /** Takes bytes that arrived so many milliseconds after the start. */
  bytes(bytes: Buffer, at: number): void {
    if (this.pending.length === 0) this.firstAt = at;
    this.pending.push(bytes);
    this.arrivals.push(`${at}:${bytes.length}`);
    this.size += bytes.length;
    if (this.isDue || (this.size < partSize && at - this.firstAt < partMs)) return;
    this.isDue = true;
    this.hub.commitAlong(() => this.write());
  }

  /** Takes note of text that was read so many milliseconds after the start. */
  text(length: number, at: number): void {
    this.texts.push({ at, length });
  }

  /** Characters that arrived in each of 24 equal parts of the time from the first text to the last. */
  trace(): number[] | undefined {
    const first = this.texts[0];
    const last = this.texts.at(-1);
    if (!first || !last || last.at === first.at) return undefined;
    const parts = new Array<number>(traceParts).fill(0);
    const span = (last.at - first.at) / traceParts;
    for (const { at, length } of this.texts) {
      const part = Math.min(Math.floor((at - first.at) / span), traceParts - 1);
      parts[part] = (parts[part] ?? 0) + length;
    }
    return parts;
  }

  /** Writes what is pending; within a transaction. */
  write(): void {
    if (this.pending.length === 0) return;
    const bytes = this.pending.length === 1 ? (this.pending[0] as Buffer) : Buffer.concat(this.pending);
    this.store.addChunk({
      dispatch: this.dispatch,
      seq: this.seq,
      at: this.firstAt,
      arrivals: this.arrivals.join(" "),
      bytes,
    });
    this.seq += 1;
    this.pending = [];
    this.arrivals = [];
    this.size = 0;
    this.isDue = false;
  }
}
