import type { ReadEvent } from "../../reply/events";
import type { Path } from "../path";

/** A character of two units whose second has not come, at the end of a text. */
const half = /[\uD800-\uDBFF]$/;

/** What the takes of an answer say: text and thought go out whole characters at a time, and text so far by what is new in it. */
export class Said {
  /** The first half of a character that came at the end of a text, by take and kind. */
  private readonly halves = new Map<string, string>();
  /** Text so far, by the path that reads it and by its block. */
  private readonly soFar = new Map<Path, Map<string, string>>();

  /** Says a text; what is half a character waits for its other half. @returns whether anything went out */
  say(event: "text" | "thought", text: string, take: number, events: ReadEvent[]): boolean {
    let whole = text;
    // most answers never cut a character: that costs one look at the last unit
    if (this.halves.size > 0) whole = this.withHalf(`${take} ${event}`, text);
    const last = whole.charCodeAt(whole.length - 1);
    if (last >= 0xd800 && last <= 0xdbff) {
      this.halves.set(`${take} ${event}`, half.exec(whole)?.[0] ?? "");
      whole = whole.slice(0, -1);
    }
    if (whole === "") return false;
    events.push({ event, take, data: { text: whole } });
    return true;
  }

  /**
   * What is new in a text so far, and how it was mended where it no longer begins as before; undefined where it is another
   * text.
   */
  newIn(path: Path, block: string, found: string): { text: string; mended?: { was: string; is: string } } | undefined {
    const known = this.soFar.get(path) ?? new Map<string, string>();
    const before = known.get(block) ?? "";
    // comparing a slice takes a fraction of what looking for a beginning does, where texts are long
    if (found.slice(0, before.length) === before) {
      known.set(block, found);
      this.soFar.set(path, known);
      return { text: found.slice(before.length) };
    }
    // the same event once more, or an old one late: nothing in it is new
    if (before.startsWith(found)) return { text: "" };
    const mended = mendedIn(before, found);
    if (mended) known.set(block, found);
    return mended;
  }

  /** Says what is left of characters whose other half never came, as the sign for what can't be read. */
  close(events: ReadEvent[]): void {
    for (const key of this.halves.keys()) {
      const [take, event] = key.split(" ") as [string, "text" | "thought"];
      events.push({ event, take: Number(take), data: { text: "\uFFFD" } });
    }
    this.halves.clear();
  }

  private withHalf(key: string, text: string): string {
    const before = this.halves.get(key);
    if (before === undefined || text === "") return text;
    this.halves.delete(key);
    return before + text;
  }
}

/** Characters of a text by which its end is found again in one that was mended, at most and at least. */
const [longestEnd, shortestEnd] = [48, 3];
/** How far from where it stood that end may be. */
const drift = 400;

/** How a text that was said goes on in one that was mended before its end; undefined where it is another text altogether. */
function mendedIn(before: string, found: string): { text: string; mended: { was: string; is: string } } | undefined {
  let same = 0;
  while (same < before.length && before.charCodeAt(same) === found.charCodeAt(same)) same += 1;
  // not between the two halves of a character
  if (/[\uD800-\uDBFF]/.test(before[same - 1] ?? "")) same -= 1;
  const mended = { was: before.slice(same, same + 80), is: found.slice(same, same + 80) };
  const from = Math.max(same, before.length - drift);
  const near = found.slice(from, before.length + drift);
  for (let length = Math.min(longestEnd, before.length - same); length >= shortestEnd; length--) {
    const at = near.lastIndexOf(before.slice(before.length - length));
    if (at >= 0) return { text: found.slice(from + at + length), mended };
  }
  // its end was changed too: what is longer goes on behind it
  if (same < before.length / 2) return undefined;
  return { text: found.slice(Math.min(before.length, found.length)), mended };
}
