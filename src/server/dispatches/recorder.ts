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
  private isLeftOut = false;
  private seq = 0;
  private texts: { at: number; length: number }[] = [];

  constructor(
    private readonly reply: string,
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
    this.hub.commitAlong(this.reply, () => this.write());
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

  /** Writes what is pending, within a transaction; what it gives takes note that this was committed. */
  write(): (() => void) | undefined {
    const { seq, pending } = this;
    if (pending.length === 0) return undefined;
    const bytes = this.isLeftOut ? Buffer.alloc(0) : Buffer.concat(pending);
    this.store.addChunk({
      dispatch: this.dispatch,
      seq,
      at: this.firstAt,
      arrivals: this.arrivals.join(" "),
      bytes,
    });
    return () => {
      if (this.seq !== seq) return;
      this.seq += 1;
      this.pending = [];
      this.arrivals = [];
      this.size = 0;
      this.isDue = false;
    };
  }

  /** Keeps none of the bytes, those that were written neither; only when they arrived. */
  leaveOutBytes(): void {
    if (this.isLeftOut) return;
    this.isLeftOut = true;
    this.hub.commitAlong(this.reply, () => {
      this.store.emptyChunks(this.dispatch);
      return undefined;
    });
  }
}
