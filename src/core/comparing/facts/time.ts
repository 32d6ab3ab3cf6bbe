import { type Clock, clock, type Language } from "./languages/language";
import { numberAt } from "./number";
import type { Reading } from "./token";

/** A time of day that begins at a place, written in figures or said in words; see docs/facts.md for its forms. */
export function timeAt(reading: Reading, place: number, language: Language): Clock | undefined {
  const number = (at: number) => {
    const read = numberAt(reading, at, language);
    return read?.isWord ? read : undefined;
  };
  const read = writtenTime(reading, place, language) ?? language.spokenTime(reading, place, number);
  return read && inHalf(reading, read, language);
}

/** "9:40", "9.40 Uhr", "17h30", "5 pm". */
function writtenTime(reading: Reading, place: number, language: Language): Clock | undefined {
  const said = reading.at(place);
  if (reading.kind(place) !== "digits" || said.length > 2) return undefined;
  const isPart = reading.isGlued(place) && /^[:.\d]$/.test(reading.at(place - 1));
  if (isPart) return undefined;
  const sign = reading.at(place + 1);
  const minutes = reading.at(place + 2);
  const hasMinutes =
    reading.isGlued(place + 1) &&
    reading.isGlued(place + 2) &&
    reading.kind(place + 2) === "digits" &&
    minutes.length === 2;
  if (hasMinutes && (sign === ":" || sign === "." || sign === "h")) {
    const time = clock(Number(said), Number(minutes));
    const next = afterSeconds(reading, place + 3);
    const isMarked = /^(?:uhr|h|o'clock)$/.test(reading.at(next)) || saysHalf(reading, next, language);
    if (time === undefined || isRatio(reading, next)) return undefined;
    if (sign === "." && !isMarked && !isAt(reading, place, next, language)) return undefined;
    const uhr = /^(?:uhr|h)$/.test(reading.at(next)) ? next + 1 : next;
    return { minutes: time, next: uhr, isMarked: isMarked || undefined, half: Number(said) > 12 ? "pm" : undefined };
  }
  // "5 pm"
  const time = clock(Number(said), 0);
  if (time === undefined || language.name !== "en" || !saysHalf(reading, place + 1, language)) return undefined;
  return { minutes: time, next: place + 1, isMarked: true };
}

const beforeTimes = new Set("at by until till before after from the around".split(" "));

/** Whether "9.40" is a time in English: behind a word that goes before times, and counting nothing. */
function isAt(reading: Reading, place: number, next: number, language: Language): boolean {
  const behind = reading.at(next);
  const isCounted =
    language.units.has(behind) ||
    language.currencies.has(behind) ||
    behind === "%" ||
    language.counted(reading, next, 2) !== undefined;
  return language.name === "en" && beforeTimes.has(reading.at(place - 1)) && !isCounted;
}

/** Whether a half of the day is said here. */
function saysHalf(reading: Reading, place: number, { halves }: Language): boolean {
  return halves.some(([words]) => reading.says(place, words));
}

function afterSeconds(reading: Reading, place: number): number {
  const isSeconds = reading.at(place) === ":" && reading.isGlued(place) && reading.at(place + 1).length === 2;
  return isSeconds && reading.isGlued(place + 1) && reading.kind(place + 1) === "digits" ? place + 2 : place;
}

/** Whether more figures are glued behind it, as in an address of a network. */
function isRatio(reading: Reading, next: number): boolean {
  return (
    /^[:.]$/.test(reading.at(next)) &&
    reading.isGlued(next) &&
    reading.isGlued(next + 1) &&
    reading.kind(next + 1) === "digits"
  );
}

/** A time in the half of the day that is said behind it. */
function inHalf(reading: Reading, read: Clock, { halves }: Language): Clock {
  if (read.half) return read;
  const [found] = halves.filter(([words]) => reading.says(read.next, words)).sort(([a], [b]) => b.length - a.length);
  if (!found) return read;
  const [words, half] = found;
  return { ...movedTo(half, read), next: read.next + words.length, isMarked: true };
}

/** A time on a clock of twelve hours as one of a half of the day. */
export function movedTo(half: "am" | "pm", read: Clock): Clock {
  const { minutes } = read;
  if (half === "pm") return { ...read, half, minutes: minutes < 720 ? minutes + 720 : minutes };
  return { ...read, half, minutes: minutes >= 720 && minutes < 780 ? minutes - 720 : minutes };
}

/** A time as `09:40`. */
export function timeValue(minutes: number): string {
  const two = (value: number) => String(value).padStart(2, "0");
  return `${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`;
}
