const partsAtOnce = 64;

/**
 * A text that grows by small parts. They are joined some dozens at a time: as a chain of parts a long text
 * takes several times the memory of its letters.
 */
export class GrowingText {
  private whole = "";
  private parts: string[] = [];

  add(part: string): void {
    this.parts.push(part);
    if (this.parts.length >= partsAtOnce) this.join();
  }

  /** All of it so far. */
  get text(): string {
    this.join();
    return this.whole;
  }

  private join(): void {
    if (this.parts.length === 0) return;
    this.whole += this.parts.join("");
    this.parts = [];
  }
}
