import { isOfWord } from "./automaton";
import { type Matcher, nothingFound, type Stretch } from "./matcher";
import { isPassedOver, plainCode } from "./words";

/** Words of a text that came one after the other in another one, too, the last of them just now. */
interface Streak {
  words: number;
  from: number;
}

/**
 * Finds where a text repeats another one: so many of its words, one after the other, whatever stands between them, in any
 * case and with any accents. Where the other one has fewer words, all of them.
 */
export class Repeated implements Matcher {
  private readonly places = new Map<string, number[]>();
  private readonly least: number;
  /** Characters of the longest word of the other text: a longer one is none of its words. */
  private readonly longest: number;
  /** By the place of their last word in the other text. */
  private streaks = new Map<number, Streak>();
  private word = "";
  private wordFrom = 0;
  private wordTo = 0;

  /** @param least words, from 1 */
  constructor(of: string, least: number) {
    const words = wordsOf(of);
    this.least = Math.max(1, Math.min(least, words.length));
    this.longest = words.reduce((most, { length }) => Math.max(most, length), 0);
    for (const [at, word] of words.entries()) {
      const places = this.places.get(word);
      if (places) places.push(at);
      else this.places.set(word, [at]);
    }
  }

  get open(): number | undefined {
    let first: number | undefined;
    for (const { from } of this.streaks.values()) if (first === undefined || from < first) first = from;
    return first ?? (this.word === "" || this.word.length > this.longest ? undefined : this.wordFrom);
  }

  feed(code: number, at: number): readonly Stretch[] {
    if (isPassedOver(code)) return nothingFound;
    if (!isOfWord(code)) return this.ended();
    if (this.word === "") this.wordFrom = at;
    if (this.word.length <= this.longest) this.word += String.fromCodePoint(plainCode(code));
    if (this.word.length > this.longest) this.streaks.clear();
    this.wordTo = at + (code > 0xffff ? 2 : 1);
    return nothingFound;
  }

  close(): readonly Stretch[] {
    const found = this.ended();
    this.streaks.clear();
    return found;
  }

  /** A word has come to its end, where one has. */
  private ended(): readonly Stretch[] {
    if (this.word === "") return nothingFound;
    const streaks = new Map<number, Streak>();
    const found: Stretch[] = [];
    for (const place of this.places.get(this.word) ?? []) {
      const before = this.streaks.get(place - 1);
      const streak = before ? { words: before.words + 1, from: before.from } : { words: 1, from: this.wordFrom };
      streaks.set(place, streak);
      if (streak.words >= this.least) found.push({ from: streak.from, to: this.wordTo });
    }
    this.streaks = streaks;
    this.word = "";
    return found;
  }
}

function wordsOf(text: string): string[] {
  const words: string[] = [];
  let word = "";
  for (const sign of `${text} `) {
    const code = sign.codePointAt(0) as number;
    if (isPassedOver(code)) continue;
    if (isOfWord(code)) word += String.fromCodePoint(plainCode(code));
    else if (word !== "") {
      words.push(word);
      word = "";
    }
  }
  return words;
}
