import type { ReplyHub } from "../replies/hub";
import type { DispatchStore } from "./dispatch-store";

const traceParts = 24;

/** Keeps the bytes of one dispatch with their arrival times, written along with the events they gave. */
export class Recorder {
  private pending: Buffer[] = [];
  private arrivals: string[] = [];
  private firstAt = 0;
  private seq = 0;
  private texts: { at: number; length: number }[] = [];

  constructor(
    private readonly dispatch: string,
    private readonly store: DispatchStore,
    private readonly hub: ReplyHub,
  ) {}

  /** Takes bytes that arrived so many milliseconds after the start. */
  bytes(bytes: Buffer, at: number): void {
    if (this.pending.length === 0) {
      this.firstAt = at;
      this.hub.commitAlong(() => this.write());
    }
    this.pending.push(bytes);
    this.arrivals.push(`${at}:${bytes.length}`);
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

  private write(): void {
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
  }
}
