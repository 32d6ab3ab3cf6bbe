import type { Reading } from "../token";

export const weekdays = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"] as const;
export type Weekday = (typeof weekdays)[number];

/** A moment of the day as it was read. */
export interface Clock {
  /** Minutes since midnight. */
  minutes: number;
  /** The token after it. */
  next: number;
  /** Whether it was said to be before noon or after it, or stands on a clock of 24 hours. */
  half?: "am" | "pm";
  /** Whether it says by a word that it is a time of day, so that a bare number before it can be one too. */
  isMarked?: boolean;
}

/** A unit that figures are turned into, and by how much. */
export interface Unit {
  unit: string;
  factor: number;
}

/** What it takes to find facts in a language. All words are in small letters. */
export interface Language {
  name: "en" | "de" | "fr" | "es" | "ja";
  /** Words that are said often in it, by which it is known. */
  common: ReadonlySet<string>;
  /** Numbers up to 999 as they are said, their words parted by a space. */
  numbers: ReadonlyMap<string, number>;
  /** Tokens of the longest of them. */
  longestNumber: number;
  scales: ReadonlyMap<string, number>;
  /** What parts the whole from the rest of a number. */
  decimal: "." | ",";
  /** What is said behind a number for a half of one more. */
  andHalf: readonly (readonly string[])[];
  months: ReadonlyMap<string, number>;
  /** Months that are ordinary words as well: they count behind a preposition or beside a day. */
  doubtfulMonths: ReadonlySet<string>;
  days: ReadonlyMap<string, Weekday>;
  /** Days of a month that are said as words. */
  ordinals: ReadonlyMap<string, number>;
  /** What may stand behind the number of a day. */
  ordinalEndings: ReadonlySet<string>;
  /** What may stand between day, month and year. */
  dateFillers: readonly (readonly string[])[];
  /** Words behind which four digits are a year. */
  beforeYear: ReadonlySet<string>;
  currencies: ReadonlyMap<string, string>;
  /** Hundredths of a currency; of the one that the text speaks of where none is named. */
  cents: ReadonlyMap<string, string | undefined>;
  /** What may stand between a currency and its hundredths. */
  andCents: ReadonlySet<string>;
  units: ReadonlyMap<string, Unit>;
  /** Stretches of time that are said without a number, in minutes. */
  stretches: readonly (readonly [words: readonly string[], minutes: number])[];
  /** Nouns before a number that it only numbers. */
  labels: ReadonlySet<string>;
  /** A time as it is said in words. */
  spokenTime(reading: Reading, place: number, number: NumberReader): Clock | undefined;
  /** What is said behind a time for its half of the day. */
  halves: readonly (readonly [words: readonly string[], half: "am" | "pm"])[];
  /** What stands between the ends of a range, or the members of a list. */
  connectors: readonly (readonly string[])[];
  /** What is counted by a number; undefined where nothing is. */
  counted(reading: Reading, place: number, value: number): { noun: string; next: number } | undefined;
  /** Answers that a sentence begins with. */
  answers: ReadonlyMap<string, string>;
  /** Answers of which a sentence can be made that goes on: "neither runs". */
  ofTwo: ReadonlySet<string>;
  /** Words that go on behind an answer without a mark: "yes you can". */
  subjects: ReadonlySet<string>;
  /** Words that make no answer of one that they follow: "neither … nor". */
  parted: ReadonlySet<string>;
  negation: Negation;
}

/** Reads a number in words at a place. */
export type NumberReader = (place: number) => { value: number; next: number } | undefined;

/** How a language denies. */
export interface Negation {
  /** Denies all of its clause. */
  denies(reading: Reading, place: number): boolean;
  /** Denies what comes after it in its clause. */
  excepts: readonly (readonly string[])[];
  /** Takes the denial away where it stands shortly behind it: "not more than". */
  limits: ReadonlySet<string>;
  /** Words that part clauses. */
  parts: ReadonlySet<string>;
  /** Words with which a clause begins that only supposes something. */
  supposes: ReadonlySet<string>;
}

/** A set of words that are written with blanks between them. */
export function words(text: string): ReadonlySet<string> {
  return new Set(text.split(/\s+/).filter(Boolean));
}

/** Phrases that are written one a line, or parted by commas. */
export function phrases(text: string): string[][] {
  return text
    .split(/[,\n]/)
    .map((each) => each.trim().split(/\s+/).filter(Boolean))
    .filter((each) => each.length > 0);
}

/** A map whose keys are several words for one value each. */
export function named<V>(entries: readonly (readonly [names: string, value: V])[]): ReadonlyMap<string, V> {
  return new Map(entries.flatMap(([names, value]) => [...words(names)].map((name) => [name, value] as const)));
}

/** Months by their names, from January on; several of one are parted by a bar. */
export function monthsOf(names: string): ReadonlyMap<string, number> {
  return new Map(names.split(/\s+/).flatMap((each, at) => each.split("|").map((name) => [name, at + 1] as const)));
}

/** Days of the week by their names, from Monday on; several of one are parted by a bar. */
export function daysOf(names: string): ReadonlyMap<string, Weekday> {
  return new Map(
    names.split(/\s+/).flatMap((each, at) => each.split("|").map((name) => [name, weekdays[at] as Weekday] as const)),
  );
}

/** Units that are written alike in all five languages. */
export const commonUnits: readonly (readonly [string, Unit])[] = [
  ["km", { unit: "m", factor: 1000 }],
  ["m", { unit: "m", factor: 1 }],
  ["cm", { unit: "m", factor: 0.01 }],
  ["mm", { unit: "m", factor: 0.001 }],
  ["kg", { unit: "g", factor: 1000 }],
  ["g", { unit: "g", factor: 1 }],
  ["t", { unit: "g", factor: 1_000_000 }],
  ["l", { unit: "l", factor: 1 }],
  ["ml", { unit: "l", factor: 0.001 }],
  ["min", { unit: "min", factor: 1 }],
  ["s", { unit: "min", factor: 1 / 60 }],
  ["h", { unit: "min", factor: 60 }],
  ["kn", { unit: "kn", factor: 1 }],
  ["kw", { unit: "kW", factor: 1 }],
  ["kwh", { unit: "kWh", factor: 1 }],
];

/** Currencies by their signs and codes. */
export const commonCurrencies: readonly (readonly [string, string])[] = [
  ["€ eur euro euros", "EUR"],
  ["$ usd dollar dollars", "USD"],
  ["£ gbp", "GBP"],
  ["¥ jpy yen", "JPY"],
  ["chf", "CHF"],
];

/** Minutes since midnight. */
export function clock(hours: number, minutes: number): number | undefined {
  const isTime = Number.isInteger(hours) && hours >= 0 && hours <= 24 && minutes >= 0 && minutes < 60;
  return isTime ? ((hours % 24) * 60 + minutes + 1440) % 1440 : undefined;
}

/** Minutes since midnight of a time that was said by an hour from 1 to 12: "half past twelve" is after noon, as most times are that people speak of. */
export function bySpokenHour(minutes: number): number {
  const within = (minutes + 1440) % 1440;
  return within < 60 ? within + 720 : within;
}

/** One or two digits, as an hour or minutes may be written. */
export function hourDigits(reading: Reading, place: number): { value: number; next: number } | undefined {
  const said = reading.at(place);
  return reading.kind(place) === "digits" && said.length <= 2 ? { value: Number(said), next: place + 1 } : undefined;
}
