import type { Automaton } from "./automaton";
import { type Matcher, nothingFound, type Stretch } from "./matcher";

/** A node that is stood on, and where in the text it was set out from. */
interface Standing {
  node: number;
  from: number;
}

/** What a finder looks for. */
export interface Looked {
  automaton: Automaton;
  /** Characters that are passed over, wherever they stand. */
  passesOver?: (code: number) => boolean;
  /** Whether what was found is really it: a checksum. It is asked of every beginning and end. */
  verify?: (text: string) => boolean;
  /** Whether it can begin with a character: most can't, and are not looked at further. */
  begins?: (code: number) => boolean;
  /** Whether a text that is there as a whole can hold it at all: a quick look that spares the long one. */
  mayHold?: (text: string) => boolean;
}

/**
 * Finds all that an automaton finds in a text, overlapping or not: every character that belongs to something is in one
 * of the stretches. Of two ways to one node the one that set out first is kept, since it reaches over the other; where
 * each is to be verified, all are kept.
 */
export class Finder implements Matcher {
  /** In the order in which they set out. Those on a border wait for the next character to say whether it is met. */
  private standing: Standing[] = [];
  private before: number | undefined;
  /** In which step a node was last stood on. */
  private readonly seen: Int32Array;
  private step = 0;
  /** What is to be verified, from `textFrom` on. */
  private text = "";
  private textFrom = 0;

  constructor(private readonly looked: Looked) {
    this.seen = new Int32Array(looked.automaton.nodes.length);
  }

  get open(): number | undefined {
    return this.standing[0]?.from;
  }

  feed(code: number, at: number): readonly Stretch[] {
    const { passesOver, verify, automaton, begins } = this.looked;
    if (verify) this.keep(code, at);
    if (passesOver?.(code)) return nothingFound;
    const found: Stretch[] = [];
    const here = this.resolved(code, at, found);
    if (!begins || begins(code)) this.reach(automaton.start, at, { here, after: code, at, found });
    const to = at + (code > 0xffff ? 2 : 1);
    const next: Standing[] = [];
    this.before = code;
    this.step += 1;
    let last = -1;
    for (const { node, from } of here) {
      const one = automaton.nodes[node];
      if (one?.kind !== "one" || !one.takes(code)) continue;
      if (verify && from !== last) this.step += 1;
      last = from;
      this.reach(one.next, from, { here: next, at: to, found });
    }
    this.standing = next;
    return found;
  }

  mayFind(text: string): boolean {
    return this.looked.mayHold?.(text) ?? true;
  }

  close(at: number): readonly Stretch[] {
    const found: Stretch[] = [];
    this.resolved(undefined, at, found);
    this.standing = [];
    return found;
  }

  /** Where is stood once it is known what comes next. */
  private resolved(after: number | undefined, at: number, found: Stretch[]): Standing[] {
    const here: Standing[] = [];
    this.step += 1;
    let last = -1;
    for (const { node, from } of this.standing) {
      if (this.looked.verify && from !== last) this.step += 1;
      last = from;
      this.reach(node, from, { here, after, isEnd: after === undefined, at, found });
    }
    if (this.looked.verify) this.step += 1;
    return here;
  }

  /** Stands on a node, and on all that is reached from it without a character. Where it is not known what comes next, borders wait. */
  private reach(
    node: number,
    from: number,
    of: { here: Standing[]; after?: number; isEnd?: boolean; at: number; found: Stretch[] },
  ): void {
    if (this.seen[node] === this.step) return;
    this.seen[node] = this.step;
    const on = this.looked.automaton.nodes[node];
    switch (on?.kind) {
      case "one":
        of.here.push({ node, from });
        return;
      case "fork":
        for (const next of on.next) this.reach(next, from, of);
        return;
      case "border":
        if (of.after === undefined && !of.isEnd) of.here.push({ node, from });
        else if (on.isMet(this.before, of.after)) this.reach(on.next, from, of);
        return;
      case "found":
        if (of.at > from && this.isReally(from, of.at)) of.found.push({ from, to: of.at });
    }
  }

  private isReally(from: number, to: number): boolean {
    const { verify } = this.looked;
    return !verify || verify(this.text.slice(from - this.textFrom, to - this.textFrom));
  }

  private keep(code: number, at: number): void {
    const needed = this.open ?? at;
    if (needed - this.textFrom > 1_000 || this.text === "") {
      this.text = this.text.slice(needed - this.textFrom);
      this.textFrom = needed;
    }
    this.text += String.fromCodePoint(code);
  }
}
