/** What a part of the run did, and what was lost in it. */
export class Tally {
  private readonly counts = new Map<string, number>();
  private readonly losses: string[] = [];

  constructor(readonly name: string) {}

  /** Counts something that was tried. */
  count(what: string, by = 1): void {
    this.counts.set(what, (this.counts.get(what) ?? 0) + by);
  }

  /** Takes note of something that should not have happened. */
  lost(what: string): void {
    this.losses.push(what);
  }

  /** Whether something holds; takes note where it does not. */
  expects(holds: boolean, otherwise: string): boolean {
    if (!holds) this.lost(otherwise);
    return holds;
  }

  get isWhole(): boolean {
    return this.losses.length === 0;
  }

  /** What was tried and what was lost, in lines. */
  report(seconds: number): string {
    const counted = [...this.counts].map(([what, count]) => `${count} ${what}`).join(", ");
    const lost = this.isWhole ? "nothing was lost" : `${this.losses.length} LOST`;
    const first = this.losses.slice(0, 10).map((each) => `    ${each}`);
    return [`${this.name} (${Math.round(seconds)} s): ${counted}: ${lost}`, ...first].join("\n");
  }
}
