import type { Language } from "./languages/language";
import { type NumberRead, numberAt } from "./number";
import type { Reading } from "./token";

/** An amount of money at a place of a text. */
export interface AmountRead {
  value: number;
  /** By its code in ISO 4217. */
  currency: string;
  next: number;
}

/** The currency of hundredths where a text names no other. */
const usual = "EUR";

/** An amount that begins at a place: "€4", "4,00 €", "EUR 4", "four euros", "2 Euro 50", "50 cents". @param ofText the currency that the text speaks of */
export function amountAt(
  reading: Reading,
  place: number,
  language: Language,
  ofText: string | undefined,
): AmountRead | undefined {
  const sign = currencyAt(reading, place, language);
  if (sign !== undefined) {
    const number = isSign(reading.at(place)) ? numberAt(reading, place + 1, language) : undefined;
    return number && { value: number.value, currency: sign, next: number.next };
  }
  const number = numberAt(reading, place, language);
  return number && behind(reading, number, language, ofText);
}

/** The amount that a number is, by what stands behind it. */
export function behind(
  reading: Reading,
  number: NumberRead,
  language: Language,
  ofText: string | undefined,
): AmountRead | undefined {
  const { value, next } = number;
  const word = reading.at(next);
  if (language.cents.has(word) && (word !== "p" || reading.isGlued(next)))
    return { value: rounded(value / 100), currency: language.cents.get(word) ?? ofText ?? usual, next: next + 1 };
  const currency = currencyAt(reading, next, language);
  if (currency === undefined) return undefined;
  const rest = centsBehind(reading, next + 1, language);
  return { value: rounded(value + (rest?.value ?? 0) / 100), currency, next: rest?.next ?? next + 1 };
}

/** The currency that is named at a place. */
export function currencyAt(reading: Reading, place: number, { currencies }: Language): string | undefined {
  return currencies.get(reading.at(place));
}

/** The hundredths behind a currency: "four euros fifty", "2 Euro 50", "dos euros con cincuenta". */
function centsBehind(reading: Reading, place: number, language: Language): { value: number; next: number } | undefined {
  const hasAnd = language.andCents.has(reading.at(place));
  const number = numberAt(reading, hasAnd ? place + 1 : place, language);
  if (!number || !Number.isInteger(number.value) || number.value < 1 || number.value > 99) return undefined;
  if (language.cents.has(reading.at(number.next))) return { value: number.value, next: number.next + 1 };
  const isTwo = number.isWord ? number.value >= 10 : reading.at(number.next - 1).length === 2;
  // "four euros and twenty people" counts something else
  const after = reading.at(number.next);
  const isAlone =
    reading.kind(number.next) !== "word" || /^(?:a|each|per|pro|par|por|je|and|und|et|y|in|for|on)$/.test(after);
  const isTime =
    (after === ":" || after === ".") && reading.isGlued(number.next + 1) && reading.kind(number.next + 1) === "digits";
  const canFollow = language.name === "es" || !hasAnd;
  return isTwo && isAlone && canFollow && !isTime && after !== "%"
    ? { value: number.value, next: number.next }
    : undefined;
}

/** Whether a currency is written as a sign or a code, which may stand before its number. */
function isSign(word: string): boolean {
  return /^(?:[€$£¥]|eur|usd|gbp|jpy|chf)$/.test(word);
}

/** The currency that a text names first. */
export function currencyOf(reading: Reading, language: Language): string | undefined {
  for (const { lower } of reading.tokens) {
    const currency = language.currencies.get(lower);
    if (currency) return currency;
  }
  return undefined;
}

function rounded(value: number): number {
  return Math.round(value * 1e6) / 1e6;
}
