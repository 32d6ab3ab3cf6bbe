const parts = 24;
/** Parts of a trace while it grows: twenty for each in the end, since the last moment is not known before. */
const fineParts = parts * 20;

/** When the text of a reply came, in as much memory for a long reply as for a short one. */
export class Trace {
  /** `performance.now()` of the first text. */
  firstAt: number | undefined;
  private lastAt = 0;
  /** Milliseconds of a fine part. */
  private span = 1;
  private fine = new Array<number>(fineParts).fill(0);

  /** Notes that so many characters came at a moment: `performance.now()`. */
  add(at: number, length: number): void {
    this.firstAt ??= at;
    this.lastAt = at;
    const since = at - this.firstAt;
    while (since >= this.span * fineParts) this.coarsen();
    const place = Math.floor(since / this.span);
    this.fine[place] = (this.fine[place] ?? 0) + length;
  }

  /** Characters that arrived in each of 24 equal parts of the time from the first text to the last; undefined for a moment. */
  get parts(): number[] | undefined {
    if (this.firstAt === undefined || this.lastAt === this.firstAt) return undefined;
    const partSpan = (this.lastAt - this.firstAt) / parts;
    const trace = new Array<number>(parts).fill(0);
    for (const [place, length] of this.fine.entries()) {
      const part = Math.min(Math.floor(((place + 0.5) * this.span) / partSpan), parts - 1);
      trace[part] = (trace[part] ?? 0) + length;
    }
    return trace;
  }

  /** Makes each part twice as long. */
  private coarsen(): void {
    this.span *= 2;
    this.fine = this.fine.map((_, at, fine) => (fine[at * 2] ?? 0) + (fine[at * 2 + 1] ?? 0));
  }
}
