/** Places for numbers of events that are kept, to know one that comes twice. */
const places = 4_096;

/**
 * Knows an event that comes twice by its number and what it holds. Numbers may come out of order. One that comes again
 * with something else in it shows that the counter began anew: then all numbers are new. Each number has its place, where
 * it stays until another one wants that: of a counter the latest 4,096 are known.
 */
export class Repeats {
  private numbers: number[] = [];
  /** What the event held whose number stands in a place. */
  private held: string[] = [];

  /** Whether an event came before; remembers it. @param data what it holds, as it came */
  isRepeat(number: unknown, data: string): boolean {
    if (typeof number !== "number" || !Number.isFinite(number)) return false;
    const place = Math.abs(Math.trunc(number)) % places;
    const held = sketchOf(data);
    if (this.numbers[place] === number) {
      if (this.held[place] === held) return true;
      this.numbers = [];
      this.held = [];
    }
    this.numbers[place] = number;
    this.held[place] = held;
    return false;
  }
}

/** Enough of a text to tell it from any other that the same counter could have numbered. */
function sketchOf(data: string): string {
  return data.length <= 400 ? data : `${data.length} ${data.slice(0, 200)} ${data.slice(-200)}`;
}
