import { LRUCache } from "lru-cache";
import { compile } from "./automaton";
import { Finder, type Looked } from "./finder";
import type { Caught, Guard, LooksFor } from "./guard";
import { type Matcher, nothingFound, type Stretch } from "./matcher";
import { readPattern } from "./pattern";
import { longestPersonal, personalLooked } from "./personal";
import { Repeated } from "./repeated";
import { wordsLooked } from "./words";

/** A guard made ready to look through texts: it begins with a new one each time. */
export interface ReadyGuard {
  guard: Guard;
  /**
   * What it looks for, each with a name; nothing where it looks at a text as a whole.
   * @param own whether a text is let through, since it is the reader's own
   */
  begin(own?: (text: string) => boolean): Looking[];
}

/** One look through one text. */
export interface Looking {
  what: Caught["what"];
  matcher: Matcher;
}

/** Automata at hand, by what they look for: a large one takes milliseconds to make. */
const atHand = new LRUCache<string, Looked>({ max: 200 });

function lookedFor(looksFor: Extract<LooksFor, { kind: "words" | "pattern" }>): Looked {
  const key = JSON.stringify(looksFor);
  const known = atHand.get(key);
  if (known) return known;
  const made =
    looksFor.kind === "words"
      ? wordsLooked(looksFor.words)
      : { automaton: compile(readPattern(looksFor.pattern, looksFor.ignoresCase ?? false)) };
  atHand.set(key, made);
  return made;
}

/** Guards made ready. @param prompt the system prompt, its variables filled */
export function readied(guards: readonly Guard[], prompt: string): ReadyGuard[] {
  return guards.filter(({ isOff }) => !isOff).map((guard) => ({ guard, begin: beginning(guard, prompt) }));
}

function beginning({ looksFor, except }: Guard, prompt: string): ReadyGuard["begin"] {
  const excepted = new Set(except?.map(plain));
  const unless = (matcher: Matcher, own?: (text: string) => boolean): Matcher =>
    own || excepted.size > 0
      ? new Excepted(matcher, (text) => excepted.has(plain(text)) || own?.(text) === true)
      : matcher;
  switch (looksFor.kind) {
    case "words":
    case "pattern": {
      const looked = lookedFor(looksFor);
      return () => [{ what: looksFor.kind, matcher: unless(new Finder(looked)) }];
    }
    case "personal":
      return (own) =>
        looksFor.kinds.map((kind) => ({ what: kind, matcher: unless(new Finder(personalLooked(kind)), own) }));
    case "prompt":
      return () => [{ what: "prompt", matcher: unless(new Repeated(prompt, looksFor.words)) }];
    case "length":
    case "judge":
      return () => [];
  }
}

/** How much of a text a guard holds back until it knows: nothing, so many characters or words, as long as a stretch goes on, or all of it. */
export type HeldBack = { kind: "nothing" | "stretch" | "all" } | { kind: "characters" | "words"; most: number };

/** How much of a text that still arrives a guard holds back at most. */
export function heldBackBy({ on, looksFor, does }: Guard): HeldBack {
  if (on === "sent") return { kind: "nothing" };
  if (does === "mark") return { kind: "nothing" };
  const most = (longest: number): HeldBack =>
    longest === Infinity ? { kind: "stretch" } : { kind: "characters", most: longest };
  switch (looksFor.kind) {
    case "words":
    case "pattern":
      return most(lookedFor(looksFor).automaton.longest);
    case "personal":
      return most(Math.max(...looksFor.kinds.map(longestPersonal)));
    case "prompt":
      return { kind: "words", most: looksFor.words };
    case "judge":
      return { kind: "all" };
    case "length":
      return { kind: "nothing" };
  }
}

/** Stretches of a text as one list: those that overlap are one. */
export function united(stretches: readonly Stretch[]): Stretch[] {
  const all: Stretch[] = [];
  for (const { from, to } of [...stretches].sort((a, b) => a.from - b.from)) {
    const last = all.at(-1);
    if (last && from < last.to) last.to = Math.max(last.to, to);
    else all.push({ from, to });
  }
  return all;
}

/** What looks find in a whole text. */
export function foundIn(text: string, matcher: Matcher): Stretch[] {
  if (matcher.mayFind?.(text) === false) return [];
  const found: Stretch[] = [];
  let at = 0;
  for (const sign of text) {
    found.push(...matcher.feed(sign.codePointAt(0) as number, at));
    at += sign.length;
  }
  return united([...found, ...matcher.close(at)]);
}

/**
 * Lets through what is exactly some text. What is found is told once nothing that it is a part of can be found
 * any more, since only then it is known what it is.
 */
class Excepted implements Matcher {
  private found: Stretch[] = [];
  private text = "";
  private textFrom = 0;
  private isOpen = false;

  constructor(
    private readonly matcher: Matcher,
    private readonly isLetThrough: (text: string) => boolean,
  ) {}

  get open(): number | undefined {
    const [first] = this.found;
    const { open } = this.matcher;
    return first === undefined ? open : open === undefined ? first.from : Math.min(first.from, open);
  }

  feed(code: number, at: number): readonly Stretch[] {
    if (!this.isOpen) {
      this.text = "";
      this.textFrom = at;
    }
    this.text += String.fromCodePoint(code);
    return this.told(this.matcher.feed(code, at));
  }

  mayFind(text: string): boolean {
    return this.matcher.mayFind?.(text) ?? true;
  }

  close(at: number): readonly Stretch[] {
    return this.told(this.matcher.close(at));
  }

  private told(found: readonly Stretch[]): readonly Stretch[] {
    if (found.length > 0) this.found = united([...this.found, ...found]);
    const { open } = this.matcher;
    this.isOpen = open !== undefined || this.found.length > 0;
    if (this.found.length === 0) return nothingFound;
    const known = this.found.filter(({ to }) => open === undefined || to <= open);
    if (known.length === 0) return nothingFound;
    this.found = this.found.filter((each) => !known.includes(each));
    this.isOpen = open !== undefined || this.found.length > 0;
    return known.filter(
      ({ from, to }) => !this.isLetThrough(this.text.slice(from - this.textFrom, to - this.textFrom)),
    );
  }
}

function plain(text: string): string {
  return text.trim().toLowerCase();
}
