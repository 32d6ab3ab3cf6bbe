import { kanjiNumber } from "./languages/japanese";
import type { Language } from "./languages/language";
import type { Reading } from "./token";

/** A number at a place of a text. */
export interface NumberRead {
  value: number;
  /** The token after it. */
  next: number;
  /** Whether it was said in words. */
  isWord: boolean;
}

const fractions = new Map([
  ["½", 0.5],
  ["¼", 0.25],
  ["¾", 0.75],
]);

/** The number that begins at a place, with what is said behind it: "2.4 million", "two and a half", "1½". */
export function numberAt(reading: Reading, place: number, language: Language): NumberRead | undefined {
  const kind = reading.kind(place);
  if (kind === "word" && language.name !== "ja" && !beginsNumber(language, reading.at(place))) return undefined;
  if (kind === "mark" && !fractions.has(reading.at(place))) return undefined;
  // times, amounts and figures all look for a number at a place
  if (reading.known.has(place)) return reading.known.get(place) as NumberRead | undefined;
  const number = readNumber(reading, place, language);
  reading.known.set(place, number);
  return number;
}

function readNumber(reading: Reading, place: number, language: Language): NumberRead | undefined {
  const read = bareAt(reading, place, language);
  if (!read) return undefined;
  const fraction = fractions.get(reading.at(read.next));
  if (fraction !== undefined) return { ...read, value: read.value + fraction, next: read.next + 1 };
  const scale = language.scales.get(reading.at(read.next));
  if (scale !== undefined) return scaled(reading, { ...read, next: read.next + 1 }, scale, language);
  const half = reading.after(read.next, language.andHalf);
  return half > read.next ? { ...read, value: read.value + 0.5, next: half } : read;
}

/** "two thousand five hundred": what follows a thousand is added to it. */
function scaled(reading: Reading, read: NumberRead, scale: number, language: Language): NumberRead {
  const whole = { ...read, value: Math.round(read.value * scale * 1e6) / 1e6 };
  const at = reading.at(read.next) === "and" ? read.next + 1 : read.next;
  const rest = read.isWord ? bareAt(reading, at, language) : undefined;
  return rest?.isWord && rest.value < scale ? { ...whole, value: whole.value + rest.value, next: rest.next } : whole;
}

function bareAt(reading: Reading, place: number, language: Language): NumberRead | undefined {
  const fraction = fractions.get(reading.at(place));
  if (fraction !== undefined) return { value: fraction, next: place + 1, isWord: false };
  if (reading.kind(place) === "digits") return digitsAt(reading, place, language);
  return reading.kind(place) === "word" ? wordsAt(reading, place, language) : undefined;
}

/** Digits with what parts them: thousands, and what is behind the whole. */
function digitsAt(reading: Reading, place: number, language: Language): NumberRead {
  const groups = [reading.at(place)];
  const separators: string[] = [];
  let next = place + 1;
  for (;;) {
    const separator = reading.at(next);
    const isPart = /^[.,'’]$/.test(separator) && reading.isGlued(next) && reading.isGlued(next + 1);
    if (isPart && reading.kind(next + 1) === "digits") {
      separators.push(separator);
      groups.push(reading.at(next + 1));
      next += 2;
    } else if (isSpaced(reading, next, groups, separators)) {
      separators.push(" ");
      groups.push(separator);
      next += 1;
    } else break;
  }
  return { value: numberOf(groups, separators, language.decimal), next, isWord: false };
}

/** Whether the next three digits go on with a number whose thousands are parted by blanks. */
function isSpaced(reading: Reading, next: number, groups: string[], separators: string[]): boolean {
  if (reading.kind(next) !== "digits" || reading.isGlued(next) || reading.at(next).length !== 3) return false;
  const isBegun = separators.length === 0 ? (groups[0] ?? "").length <= 3 : separators.every((each) => each === " ");
  return isBegun && groups[0] !== "0" && !/^[:h]$/.test(reading.at(next + 1));
}

function numberOf(groups: readonly string[], separators: readonly string[], decimal: string): number {
  const last = separators.at(-1);
  const rest = groups.at(-1) ?? "";
  const isSame = separators.every((each) => each === last);
  const areThousands = groups.slice(1).every((group) => group.length === 3);
  // one point or comma with three digits behind it is read as the language writes numbers
  const isWhole = last === undefined || (isSame && areThousands && (separators.length > 1 || last !== decimal));
  if (isWhole) return Number(groups.join(""));
  return Number(`${groups.slice(0, -1).join("")}.${rest}`);
}

function wordsAt(reading: Reading, place: number, language: Language): NumberRead | undefined {
  if (language.name === "ja") {
    const read = kanjiNumber(reading, place);
    return read && { ...read, isWord: true };
  }
  const thousand = language.scales.get(reading.at(place));
  if (thousand === 1_000 && language.name !== "en")
    return scaled(reading, { value: 1, next: place + 1, isWord: true }, thousand, language);
  let found: NumberRead | undefined;
  let said = "";
  let at = place;
  for (let count = 0; count < language.longestNumber && reading.kind(at) === "word"; count++) {
    said = said === "" ? reading.at(at) : `${said} ${reading.at(at)}`;
    at += 1;
    const value = language.numbers.get(said);
    if (value !== undefined) found = { value, next: at, isWord: true };
    if (reading.at(at) === "-" && reading.isGlued(at) && reading.isGlued(at + 1)) at += 1;
  }
  return found;
}

const beginnings = new Map<Language["name"], ReadonlySet<string>>();

/** Whether some number of a language begins with a word. */
function beginsNumber(language: Language, word: string): boolean {
  const known = beginnings.get(language.name);
  if (known) return known.has(word);
  const words = [...language.numbers.keys()].map((said) => said.split(" ")[0] ?? "");
  const thousands = [...language.scales].flatMap(([said, value]) => (value === 1_000 ? [said] : []));
  beginnings.set(language.name, new Set([...words, ...thousands]));
  return beginsNumber(language, word);
}
