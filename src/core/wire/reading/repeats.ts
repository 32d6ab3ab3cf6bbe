/** Numbers of events that are kept, to know one that comes twice. */
const mostNumbers = 4_096;

/**
 * Knows an event that comes twice by its number and what it holds. Numbers may come out of order. One that comes again
 * with something else in it shows that the counter began anew: then all numbers are new.
 */
export class Repeats {
  /** What the latest events held, by their numbers; the oldest first. */
  private readonly seen = new Map<number, string>();

  /** Whether an event came before; remembers it. @param data what it holds, as it came */
  isRepeat(number: unknown, data: string): boolean {
    if (typeof number !== "number" || !Number.isFinite(number)) return false;
    const held = sketchOf(data);
    const before = this.seen.get(number);
    if (before === held) return true;
    if (before !== undefined) this.seen.clear();
    this.seen.set(number, held);
    if (this.seen.size > mostNumbers) this.seen.delete(this.seen.keys().next().value as number);
    return false;
  }
}

/** Enough of a text to tell it from any other that the same counter could have numbered. */
function sketchOf(data: string): string {
  return data.length <= 400 ? data : `${data.length} ${data.slice(0, 200)} ${data.slice(-200)}`;
}
