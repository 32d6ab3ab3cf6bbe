import { type Caught, usualSaying } from "./guard";
import type { Looking, ReadyGuard } from "./looking";
import type { Stretch } from "./matcher";
import { personalKinds, personalNames } from "./personal";

/** What is let through of a text that still arrives. */
export interface LetThrough {
  text: string;
  /** What is said in the place of the rest, where a guard refuses it. */
  refusal?: string;
}

interface Look extends Looking {
  ready: ReadyGuard;
  /** The last stretch that it found, to know what only makes that one longer. */
  last: Stretch;
}

interface Covered extends Stretch {
  mark: string;
}

/**
 * A text that still arrives, behind guards. What may yet turn out to be part of something that is refused or masked is
 * held back, and nothing else is. However the text was cut, the same is let through of it.
 */
export class GuardedText {
  private readonly looks: Look[];
  /** Those that hold text back. */
  private readonly holding: Look[];
  /** What is held back, from `released` on. */
  private held = "";
  private released = 0;
  /** How far was read. */
  private read = 0;
  /** The first half of a character whose second half has not come yet. */
  private half = "";
  private covered: Covered[] = [];
  private refused: { from: number; says: string } | undefined;
  private readonly all: Caught[] = [];

  /**
   * @param guards those that stand before showing
   * @param own whether a text is let through, since it is the reader's own
   */
  constructor(guards: readonly ReadyGuard[], own?: (text: string) => boolean) {
    this.looks = guards.flatMap((ready) =>
      ready.begin(own).map((looking) => ({ ...looking, ready, last: { from: -1, to: -1 } })),
    );
    this.holding = this.looks.filter(({ ready }) => ready.guard.does !== "mark");
  }

  /** What was caught so far. */
  get caught(): readonly Caught[] {
    return this.all;
  }

  /** Whether something was taken out of it or refused. */
  get isCut(): boolean {
    return this.all.some(({ does }) => does !== "mark");
  }

  /** Reads text that was shown before: it can be the beginning of something, and can't be taken back. */
  begin(before: string): void {
    for (const sign of before) this.look(sign);
    this.held = "";
    this.released = this.read;
    this.covered = [];
    this.refused = undefined;
    this.all.length = 0;
    for (const look of this.looks) look.last = { from: -1, to: -1 };
  }

  /** Reads a further stretch; gives what is let through now. */
  feed(text: string): LetThrough {
    if (this.refused) return { text: "" };
    if (this.looks.length === 0) return { text };
    const all = this.half + text;
    this.half = /[\ud800-\udbff]$/.test(all) ? all.slice(-1) : "";
    for (const sign of this.half === "" ? all : all.slice(0, -1)) {
      this.held += sign;
      this.look(sign);
      if (this.refused) break;
    }
    return this.letThrough(this.openFrom());
  }

  /** Hears that the text ends here; gives what is let through of what was held back. */
  close(): LetThrough {
    if (this.refused || this.looks.length === 0) return { text: "" };
    this.held += this.half;
    if (this.half !== "") this.look(this.half);
    this.half = "";
    for (const look of this.looks) {
      if (!this.refused) this.take(look, look.matcher.close(this.read));
    }
    return this.letThrough(this.read);
  }

  private look(sign: string): void {
    const code = sign.codePointAt(0) as number;
    const at = this.read;
    this.read += sign.length;
    for (const look of this.looks) {
      this.take(look, look.matcher.feed(code, at));
      if (this.refused) return;
    }
  }

  private take(look: Look, found: readonly Stretch[]): void {
    for (const stretch of found) {
      const { guard } = look.ready;
      const isLonger = stretch.from < look.last.to;
      look.last = isLonger ? { from: Math.min(look.last.from, stretch.from), to: stretch.to } : stretch;
      if (!isLonger) this.all.push({ guard: guard.name, on: guard.on, does: guard.does, what: look.what, times: 1 });
      if (guard.does === "mask") this.cover({ ...stretch, mark: maskOf(look.what) });
      if (guard.does === "refuse") {
        this.refused = { from: stretch.from, says: guard.says ?? usualSaying };
        return;
      }
    }
  }

  /** Covers a stretch: with one that it overlaps it is one, with the mark of whichever begins first. */
  private cover(stretch: Covered): void {
    const apart: Covered[] = [];
    let whole = stretch;
    for (const each of this.covered) {
      if (each.to <= whole.from || whole.to <= each.from) apart.push(each);
      else {
        const first = each.from <= whole.from ? each : whole;
        whole = { from: first.from, to: Math.max(each.to, whole.to), mark: first.mark };
      }
    }
    this.covered = [...apart, whole].sort((a, b) => a.from - b.from);
  }

  /** The first character of which it is not known yet whether it is let through. */
  private openFrom(): number {
    let first = this.read;
    for (const { matcher } of this.holding) {
      const { open } = matcher;
      if (open !== undefined && open < first) first = open;
    }
    return first;
  }

  /** Lets through what stands before a character, the covered with their marks in their places. */
  private letThrough(until: number): LetThrough {
    const end = this.refused ? Math.min(until, this.refused.from, this.openFrom()) : until;
    let text = "";
    const plain = (to: number) => {
      if (to <= this.released) return;
      text += this.held.slice(0, to - this.released);
      this.drop(to);
    };
    for (const { from, to, mark } of this.covered) {
      if (from > end || (this.refused && from >= this.refused.from)) break;
      plain(from);
      // the mark of one that has become longer stands there already
      if (from >= this.released) text += mark;
      this.drop(to);
    }
    plain(end);
    // the last of them may still become longer
    this.covered = this.covered.filter((each) => each.to >= this.released);
    return this.refused ? { text, refusal: this.refused.says } : { text };
  }

  private drop(to: number): void {
    if (to <= this.released) return;
    this.held = this.held.slice(to - this.released);
    this.released = to;
  }
}

/** What is let through of a text that is there as a whole, and what was caught in it. */
export function guardedWhole(
  text: string,
  guards: readonly ReadyGuard[],
  own?: (text: string) => boolean,
): LetThrough & { caught: readonly Caught[] } {
  const guarded = new GuardedText(guards, own);
  const first = guarded.feed(text);
  const rest = guarded.close();
  return { text: first.text + rest.text, refusal: first.refusal ?? rest.refusal, caught: guarded.caught };
}

/** What stands in the place of what was masked in a reply. */
export function maskOf(what: Caught["what"]): string {
  return `[${nameOf(what)}]`;
}

/** How what was found is called in a text that it was masked in. */
export function nameOf(what: Caught["what"]): string {
  const personal = personalKinds.find((kind) => kind === what);
  return personal ? personalNames[personal] : "hidden";
}
