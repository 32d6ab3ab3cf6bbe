import { anyNumber } from "./languages/japanese";
import type { Language } from "./languages/language";
import { numberAt } from "./number";
import type { Reading } from "./token";

/** A date at a place of a text: `2025-06-01`, `06-01` where no year is said, `2025-06`, `month 6`, `year 1987`, `sunday`. */
export interface DateRead {
  value: string;
  /** Its tokens: the first, and the one after the last. */
  first: number;
  next: number;
}

/** The dates that begin at a place: several where a month is said once for several days. */
export function datesAt(reading: Reading, place: number, language: Language): DateRead[] {
  if (language.name === "ja")
    return oneOf(
      japaneseDate(reading, place) ?? numeric(reading, place, language) ?? weekday(reading, place, language),
    );
  const named = daysThenMonth(reading, place, language) ?? monthThenDays(reading, place, language);
  if (named) return named;
  return oneOf(
    numeric(reading, place, language) ?? weekday(reading, place, language) ?? year(reading, place, language),
  );
}

function oneOf(date: DateRead | undefined): DateRead[] {
  return date ? [date] : [];
}

const two = (value: number | string) => String(value).padStart(2, "0");

/** A date of a day, a month and perhaps a year; undefined where there is no such day. */
function dated(day: number, month: number, inYear: number | undefined): string | undefined {
  if (!(day >= 1 && day <= 31 && month >= 1 && month <= 12)) return undefined;
  return inYear === undefined ? `${two(month)}-${two(day)}` : `${inYear}-${two(month)}-${two(day)}`;
}

/** "2025-06-01", "01.06.2025", "01/06/2025", "1.6.": figures and what parts them. */
function numeric(reading: Reading, place: number, language: Language): DateRead | undefined {
  const sign = reading.at(place + 1);
  if (reading.kind(place) !== "digits" || !/^[-./]$/.test(sign)) return undefined;
  for (let at = place + 1; at < place + 5; at++) if (at < place + 4 && !reading.isGlued(at)) return undefined;
  if (reading.kind(place + 2) !== "digits" || reading.at(place + 3) !== sign) return undefined;
  const [first, second, third] = [reading.at(place), reading.at(place + 2), reading.at(place + 4)];
  const hasThird = reading.isGlued(place + 4) && reading.kind(place + 4) === "digits";
  if (first.length === 4 && hasThird) return of(dated(Number(third), Number(second), Number(first)), place, place + 5);
  if (first.length > 2 || second.length > 2) return undefined;
  if (!hasThird) {
    const isGerman = sign === "." && language.name === "de";
    return isGerman ? of(dated(Number(first), Number(second), undefined), place, place + 4) : undefined;
  }
  if (third.length !== 4 && third.length !== 2) return undefined;
  const inYear = third.length === 4 ? Number(third) : 2000 + Number(third);
  // the day first, unless only the month can be
  const isTurned = Number(second) > 12;
  const [day, month] = isTurned ? [second, first] : [first, second];
  return of(dated(Number(day), Number(month), inYear), place, place + 5);
}

function of(value: string | undefined, first: number, next: number): DateRead | undefined {
  return value === undefined ? undefined : { value, first, next };
}

/** "1 June 2025", "the eighth of June", "24 and 25 December", "1–5 June", "1er juin", "1 de junio de 2025". */
function daysThenMonth(reading: Reading, place: number, language: Language): DateRead[] | undefined {
  const days: { value: number; first: number; next: number }[] = [];
  for (let at = place; days.length < 8; ) {
    const day = dayAt(reading, at, language);
    if (!day) return undefined;
    days.push({ ...day, first: at });
    const month = monthAt(reading, reading.after(day.next, language.dateFillers), language);
    if (month) {
      const end = yearBehind(reading, month.next, language);
      return days.flatMap(({ value, first, next }, place) => {
        const isLast = place === days.length - 1;
        return oneOf(of(dated(value, month.value, end?.value), first, isLast ? (end?.next ?? month.next) : next));
      });
    }
    const behind = reading.at(day.next) === "," ? day.next + 1 : reading.after(day.next, language.connectors);
    if (behind === day.next) return undefined;
    at = behind;
  }
  return undefined;
}

/** "June 1, 2025", "July 14th", "December 24 and 25", "May 2025", "in May". */
function monthThenDays(reading: Reading, place: number, language: Language): DateRead[] | undefined {
  const month = monthAt(reading, place, language);
  if (!month) return undefined;
  const day = language.name === "en" ? dayAt(reading, month.next, language) : undefined;
  if (day && !isYear(reading, month.next) && !isCounted(reading, day.next, day.value, language)) {
    const days = [{ ...day, first: place }];
    for (let last = day; days.length < 8; ) {
      const at = reading.after(last.next, language.connectors);
      const further = at > last.next ? dayAt(reading, at, language) : undefined;
      if (!further || isCounted(reading, further.next, further.value, language)) break;
      days.push({ ...further, first: at });
      last = further;
    }
    const end = yearBehind(reading, days.at(-1)?.next ?? month.next, language);
    return days.flatMap(({ value, first, next }, at) =>
      oneOf(of(dated(value, month.value, end?.value), first, at === days.length - 1 ? (end?.next ?? next) : next)),
    );
  }
  const end = yearBehind(reading, month.next, language);
  if (end) return [{ value: `${end.value}-${two(month.value)}`, first: place, next: end.next }];
  const isPlain = !language.doubtfulMonths.has(reading.at(place)) || language.beforeYear.has(reading.at(place - 1));
  return isPlain ? [{ value: `month ${month.value}`, first: place, next: month.next }] : undefined;
}

/** The number of a day, in figures or as an ordinal. */
function dayAt(reading: Reading, place: number, language: Language): { value: number; next: number } | undefined {
  const ordinal = language.ordinals.get(reading.at(place));
  if (ordinal !== undefined) return { value: ordinal, next: place + 1 };
  if (reading.kind(place) !== "digits" || reading.at(place).length > 2) return undefined;
  const value = Number(reading.at(place));
  if (value < 1 || value > 31) return undefined;
  const hasEnding = reading.isGlued(place + 1) && language.ordinalEndings.has(reading.at(place + 1));
  return { value, next: hasEnding ? place + 2 : place + 1 };
}

function monthAt(reading: Reading, place: number, language: Language): { value: number; next: number } | undefined {
  const value = language.months.get(reading.at(place));
  if (value === undefined) return undefined;
  const said = reading.tokens[place]?.text ?? "";
  const isName = language.name === "fr" || language.name === "es" || /^\p{Lu}/u.test(said);
  if (!isName) return undefined;
  const isShort =
    said.length <= 5 &&
    reading.at(place + 1) === "." &&
    reading.isGlued(place + 1) &&
    language.doubtfulMonths.has(reading.at(place));
  return { value, next: isShort ? place + 2 : place + 1 };
}

/** The year behind a month. */
function yearBehind(reading: Reading, place: number, language: Language): { value: number; next: number } | undefined {
  const at = reading.at(place) === "," ? place + 1 : reading.after(place, language.dateFillers);
  return isYear(reading, at) ? { value: Number(reading.at(at)), next: at + 1 } : undefined;
}

function isYear(reading: Reading, place: number): boolean {
  const said = reading.at(place);
  return reading.kind(place) === "digits" && said.length === 4 && Number(said) >= 1000 && Number(said) <= 2100;
}

/** Whether a number counts something, so that it is no day and no year. */
function isCounted(reading: Reading, next: number, value: number, language: Language): boolean {
  const behind = reading.at(next);
  const isTime =
    (behind === ":" || behind === ".") &&
    reading.isGlued(next) &&
    reading.isGlued(next + 1) &&
    reading.kind(next + 1) === "digits";
  return (
    isTime ||
    language.units.has(behind) ||
    language.currencies.has(behind) ||
    behind === "%" ||
    language.halves.some(([words]) => reading.says(next, words)) ||
    language.counted(reading, next, value) !== undefined
  );
}

function weekday(reading: Reading, place: number, { days, name }: Language): DateRead | undefined {
  if (name === "ja") {
    const value = days.get(reading.at(place) + reading.at(place + 1));
    return value && { value, first: place, next: reading.at(place + 2) === "日" ? place + 3 : place + 2 };
  }
  const value = days.get(reading.at(place));
  return value && { value, first: place, next: place + 1 };
}

/** "in 1987": four figures that count nothing, behind a word that goes before a year. */
function year(reading: Reading, place: number, language: Language): DateRead | undefined {
  if (!isYear(reading, place) || !language.beforeYear.has(reading.at(place - 1))) return undefined;
  const number = numberAt(reading, place, language);
  if (!number || number.next !== place + 1 || isCounted(reading, place + 1, number.value, language)) return undefined;
  return { value: `year ${reading.at(place)}`, first: place, next: place + 1 };
}

/** "2025年6月1日", "6月1日", "6月", "1987年". */
function japaneseDate(reading: Reading, place: number): DateRead | undefined {
  const first = anyNumber(reading, place);
  if (!first) return undefined;
  const sign = reading.at(first.next);
  if (sign === "年" && reading.at(first.next + 1) !== "間" && first.value >= 1000 && first.value <= 2100) {
    const month = anyNumber(reading, first.next + 1);
    if (!month || reading.at(month.next) !== "月")
      return { value: `year ${first.value}`, first: place, next: first.next + 1 };
    const day = anyNumber(reading, month.next + 1);
    if (day && reading.at(day.next) === "日")
      return of(dated(day.value, month.value, first.value), place, day.next + 1);
    return { value: `${first.value}-${two(month.value)}`, first: place, next: month.next + 1 };
  }
  if (sign !== "月" || first.value < 1 || first.value > 12) return undefined;
  const day = anyNumber(reading, first.next + 1);
  if (day && reading.at(day.next) === "日") return of(dated(day.value, first.value, undefined), place, day.next + 1);
  return { value: `month ${first.value}`, first: place, next: first.next + 1 };
}
