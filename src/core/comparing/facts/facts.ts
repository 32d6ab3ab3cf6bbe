import { amountAt, currencyOf } from "./amount";
import { answerAt } from "./answer";
import { datesAt } from "./date";
import { type FigureRead, figureAt, figureValue } from "./figure";
import type { Language } from "./languages/language";
import { languageOf } from "./languages/languages";
import { nameAt } from "./name";
import { deniedIn } from "./negation";
import { Tables } from "./table";
import { movedTo, timeAt, timeValue } from "./time";
import { Reading, tokensOf } from "./token";

export const factKinds = ["amount", "time", "date", "figure", "name", "answer"] as const;
export type FactKind = (typeof factKinds)[number];

/** Something that a text states, by the rules of docs/facts.md. */
export interface Fact {
  kind: FactKind;
  /**
   * What it comes to in whatever writing: `EUR 4`, `09:40`, `2025-06-01`, `sunday`, `4 bicycle`, `30 min`, `tansy holm`,
   * `yes`.
   */
  value: string;
  /** Whether the text denies it. */
  isDenied: boolean;
  /** What it is about: the time or the name that stands nearest in its sentence, as it is said. */
  about: string | undefined;
  /** As it is said, and where. */
  said: string;
  from: number;
  to: number;
}

/** A fact as a word: its value, with `not` before one that is denied. */
export function factKey({ value, isDenied }: Pick<Fact, "value" | "isDenied">): string {
  return isDenied ? `not ${value}` : value;
}

/** A fact as it is read, by its tokens; a bare number waits for what it counts. */
interface Found {
  kind: FactKind | "bare";
  value: string;
  first: number;
  next: number;
  /** Of an amount, a figure or a bare number. */
  number?: { value: number; unit?: string; currency?: string; isWord: boolean };
  /** Of a time: minutes since midnight, and what is known of its half of the day. */
  clock?: { minutes: number; half?: "am" | "pm"; isMarked?: boolean };
}

/** The facts that a text states, in the order in which they stand in it. */
export function factsIn(text: string): Fact[] {
  const reading = new Reading(tokensOf(text));
  const language = languageOf(reading);
  const tables = new Tables(reading, language);
  const found = withoutDoubles(reading, counted(reading, scanned(reading, language, tables), language, tables));
  const denied = deniedIn(reading, found, language);
  return found.map(({ kind, value, first, next }, at): Fact => {
    const from = reading.tokens[first]?.from ?? 0;
    const to = reading.tokens[next - 1]?.to ?? from;
    return {
      kind: kind as FactKind,
      value,
      isDenied: kind !== "answer" && denied[at] === true,
      about: aboutOf(reading, found, at, text),
      said: text.slice(from, to),
      from,
      to,
    };
  });
}

/** All that can be a fact, from the first token to the last. */
function scanned(reading: Reading, language: Language, tables: Tables): Found[] {
  const ofText = currencyOf(reading, language);
  const found: Found[] = [];
  for (let at = 0; at < reading.tokens.length; ) {
    const here = factsAt(reading, at, language, tables, ofText);
    found.push(...here);
    at = here.at(-1)?.next ?? at + 1;
  }
  return found;
}

function factsAt(
  reading: Reading,
  place: number,
  language: Language,
  tables: Tables,
  ofText: string | undefined,
): Found[] {
  if (reading.kind(place) === "break") return [];
  const isHead = tables.isHead(place);
  const answer = isHead ? undefined : answerAt(reading, place, language);
  if (answer) return [{ kind: "answer", value: answer.value, first: place, next: answer.next }];
  const dates = datesAt(reading, place, language);
  if (dates.length > 0) return dates.map((date): Found => ({ kind: "date", ...date }));
  const time = timeAt(reading, place, language);
  if (time) return [{ kind: "time", value: timeValue(time.minutes), first: place, next: time.next, clock: time }];
  const amount = amountAt(reading, place, language, ofText);
  if (amount) {
    const { value, currency, next } = amount;
    return [
      { kind: "amount", value: `${currency} ${value}`, first: place, next, number: { value, currency, isWord: false } },
    ];
  }
  if (isHead) return [];
  const figure = figureAt(reading, place, language);
  if (figure) return [ofFigure(figure, place)];
  if (language.name !== "en") return [];
  const name = nameAt(reading, place, tables.columnOf(place)?.isNames);
  return name ? [{ kind: "name", ...name }] : [];
}

function ofFigure({ value, unit, next, isWord }: FigureRead, first: number): Found {
  const kind = unit === undefined ? "bare" : "figure";
  return { kind, value: figureValue(value, unit), first, next, number: { value, unit, isWord } };
}

/** Gives bare numbers what they count: the head of their column, the other end of their range, or what was counted before. */
function counted(reading: Reading, found: Found[], language: Language, tables: Tables): Found[] {
  const known = found.slice();
  for (let at = known.length - 1; at >= 0; at--) {
    const [here, next] = [known[at] as Found, known[at + 1]];
    if (next && isConnected(reading, here, next, language)) known[at] = endOfRange(here, next);
  }
  return known.flatMap((here, at) => {
    if (here.kind !== "bare") return [here];
    const column = tables.columnOf(here.first);
    if (column?.isNumbering && isAlone(reading, here)) return [];
    const filled =
      (column && isAlone(reading, here) && inColumn(here, column)) ??
      (column ? undefined : asBefore(reading, known, at));
    if (filled) {
      known[at] = filled;
      return [filled];
    }
    return here.number?.isWord || isIdle(reading, here, language) ? [] : [{ ...here, kind: "figure" as const }];
  });
}

/** Whether nothing but what joins the ends of a range, or the members of a list, stands between two. */
function isConnected(reading: Reading, here: Found, next: Found, { connectors }: Language): boolean {
  return reading.after(here.next, connectors) === next.first && next.first > here.next;
}

/** The first end of a range, as far as the second one says what it is. */
function endOfRange(here: Found, next: Found): Found {
  const { number, clock } = here;
  if (clock && next.clock?.half && !clock.half && clock.minutes < 720) return asTime(here, clock.minutes, next.clock);
  if (here.kind !== "bare" || !number) return here;
  const { value } = number;
  if (next.kind === "time" && next.clock?.isMarked && Number.isInteger(value) && value <= 24)
    return asTime(here, (value % 24) * 60, next.clock);
  return asCounted(here, next.number) ?? here;
}

function asTime(here: Found, minutes: number, { half, minutes: end }: NonNullable<Found["clock"]>): Found {
  // "11 to 1 pm" begins before noon
  const isSame = half === "pm" && minutes < 720 && minutes + 720 <= (end || 1440);
  const moved = isSame ? movedTo("pm", { minutes, next: here.next }).minutes : minutes;
  return {
    ...here,
    kind: "time",
    value: timeValue(moved),
    number: undefined,
    clock: { minutes: moved, half, isMarked: true },
  };
}

/** A bare number that counts the same as another one. */
function asCounted(here: Found, like: Found["number"]): Found | undefined {
  const value = here.number?.value;
  if (value === undefined || !like) return undefined;
  const number = { ...like, value };
  if (like.currency) return { ...here, kind: "amount", value: `${like.currency} ${value}`, number };
  if (like.unit === undefined || like.unit.startsWith("label ")) return undefined;
  return { ...here, kind: "figure", value: figureValue(value, like.unit), number };
}

/** A number in a cell of its own, by the head of its column. */
function inColumn(
  here: Found,
  { currency, unit, noun }: NonNullable<ReturnType<Tables["columnOf"]>>,
): Found | undefined {
  const value = here.number?.value ?? 0;
  if (currency) return { ...here, kind: "amount", value: `${currency} ${value}` };
  if (unit)
    return { ...here, kind: "figure", value: figureValue(Math.round(value * unit.factor * 1e6) / 1e6, unit.unit) };
  return noun === undefined ? undefined : { ...here, kind: "figure", value: figureValue(value, noun) };
}

/** Whether a number has its cell for itself. */
function isAlone(reading: Reading, { first, next }: Found): boolean {
  const isEdge = (place: number) => /^(?:\||)$/.test(reading.at(place)) || reading.kind(place) === "break";
  return isEdge(first - 1) && isEdge(next);
}

/** A number that nothing follows counts what was counted last in its sentence: "the 8:10 takes four bicycles, the 9:40 eight". */
function asBefore(reading: Reading, known: readonly Found[], at: number): Found | undefined {
  const here = known[at] as Found;
  for (let before = at - 1; before >= 0; before--) {
    const other = known[before] as Found;
    if (!isOneSentence(reading, other.next, here.first)) return undefined;
    if (other.number && other.kind !== "bare") return asCounted(here, other.number);
  }
  return undefined;
}

function isOneSentence(reading: Reading, from: number, to: number): boolean {
  for (let at = from; at < to; at++)
    if (reading.kind(at) === "break" || /^[.!?;|()。！？]$/.test(reading.at(at))) return false;
  return true;
}

/** Whether digits say nothing by themselves: the number of a point of a list, or a part of a code. */
function isIdle(reading: Reading, { first, next }: Found, language: Language): boolean {
  const isPart = (place: number) => /^[-/.#_]$/.test(reading.at(place)) && reading.isGlued(place);
  const before = reading.at(first - 1);
  const isCode = (isPart(next) && reading.isGlued(next + 1)) || (/^[-/.#_]$/.test(before) && reading.isGlued(first));
  return isCode || (language.name !== "ja" && reading.begins(first) && /^[.)]$/.test(reading.at(next)));
}

/** A day of the week beside its date says nothing more. */
function withoutDoubles(reading: Reading, found: readonly Found[]): Found[] {
  const isDay = ({ kind, value }: Found) => kind === "date" && /day$/.test(value);
  const isDate = (other: Found | undefined) => other?.kind === "date" && /\d-\d/.test(other.value);
  const isNear = (a: Found, b: Found) => {
    for (let at = a.next; at < b.first; at++)
      if (!/^(?:,|\(|the|der|den|dem|le|el|am|of)$/.test(reading.at(at))) return false;
    return true;
  };
  return found.filter((here, at) => {
    if (!isDay(here)) return true;
    const [before, after] = [found[at - 1], found[at + 1]];
    return !(isDate(after) && isNear(here, after as Found)) && !(isDate(before) && isNear(before as Found, here));
  });
}

/** What a figure or an amount is about: the time or the name nearest to it in its sentence, the one before it first. */
function aboutOf(reading: Reading, found: readonly Found[], at: number, text: string): string | undefined {
  const here = found[at] as Found;
  if (here.kind !== "figure" && here.kind !== "amount") return undefined;
  const said = ({ first, next }: Found) => text.slice(reading.tokens[first]?.from, reading.tokens[next - 1]?.to);
  const isTopic = ({ kind }: Found) => kind === "time" || kind === "name";
  const after = found[at + 1];
  const leads =
    after &&
    isTopic(after) &&
    after.first - here.next <= 2 &&
    /^(?:on|for|at|to|with|um|à|a)$/.test(reading.at(here.next));
  if (leads) return said(after);
  for (let before = at - 1; before >= 0; before--) {
    const other = found[before] as Found;
    if (!isOneSentence(reading, other.next, here.first)) break;
    if (isTopic(other)) return said(other);
  }
  return after && isTopic(after) && isOneSentence(reading, here.next, after.first) ? said(after) : undefined;
}
