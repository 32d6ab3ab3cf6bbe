import { type Automaton, compile } from "./automaton";
import type { Looked } from "./finder";
import { readPattern } from "./pattern";
import { hasPassedOver, isPassedOver } from "./words";

/** Kinds of personal data that are found by their form. */
export const personalKinds = ["e-mail", "phone", "card", "account"] as const;
export type PersonalKind = (typeof personalKinds)[number];

/** How each is called in a text that it was masked in. */
export const personalNames: Record<PersonalKind, string> = {
  "e-mail": "e-mail",
  phone: "phone number",
  card: "card number",
  account: "account number",
};

/** The form of each, and what more has to hold. */
const forms: Record<
  PersonalKind,
  { form: string; verify?: (text: string) => boolean; mayHold: (text: string) => boolean }
> = {
  // RFC 5321: up to 64 characters before the @, up to 63 in each label after it
  "e-mail": {
    form: String.raw`\b[\p{L}\p{N}_][\p{L}\p{N}._%+'\-]{0,63}@(?:[\p{L}\p{N}](?:[\p{L}\p{N}\-]{0,62})\.)+(?:\p{L}{2,24}|xn--[a-z0-9\-]{2,59})\b`,
    mayHold: (text) => text.includes("@"),
  },
  phone: {
    form: String.raw`(?<![\p{L}\p{N}_.\/\-])(?:\+ ?)?\(?\d(?:[ .\/\-]?[()]?[ .\/\-]?\d){6,16}\b`,
    verify: isPhone,
    mayHold: (text) => /\d(?:\D{0,3}\d){6}/.test(text),
  },
  card: {
    form: String.raw`\b[2-6]\d{3}(?:[ \-]?\d){8,15}\b`,
    verify: isCard,
    mayHold: (text) => /\d(?:\D?\d){11}/.test(text),
  },
  account: {
    form: String.raw`\b[A-Z]{2}\d{2}(?:[ \-]?[A-Z0-9]){11,30}\b`,
    verify: isAccount,
    mayHold: (text) => /[A-Z]{2}\d{2}/iu.test(text),
  },
};

const automata = new Map<PersonalKind, Automaton>();

/** What is looked for to find a kind of personal data. */
export function personalLooked(kind: PersonalKind): Looked {
  const { form, verify, mayHold } = forms[kind];
  let automaton = automata.get(kind);
  if (!automaton) {
    automaton = compile(readPattern(form, true));
    automata.set(kind, automaton);
  }
  return {
    automaton,
    passesOver: isPassedOver,
    verify,
    mayHold: (text) => hasPassedOver(text) || mayHold(text),
  };
}

/** Characters that a kind of personal data can have at most. */
export function longestPersonal(kind: PersonalKind): number {
  // RFC 5321, 4.5.3.1: 64 before the @, and 255 after it
  return kind === "e-mail" ? 320 : personalLooked(kind).automaton.longest;
}

function digitsOf(text: string): string {
  return text.replace(/\D/g, "");
}

/**
 * A telephone number: abroad, as ITU-T E.164 has it (a + or 00, then up to 15 digits); at home, with a 0 before it, in
 * groups or of ten or eleven digits; or in groups of three, three and four. It has no checksum.
 */
function isPhone(text: string): boolean {
  const digits = digitsOf(text);
  if (text.startsWith("+")) return digits[0] !== "0" && digits.length >= 8 && digits.length <= 15;
  if (isDate(text)) return false;
  const isGrouped = /\d[ ./()-]+\d/.test(text);
  if (digits.startsWith("00")) return isGrouped && digits.length >= 10 && digits.length <= 17;
  if (digits.startsWith("0"))
    return isGrouped ? digits.length >= 9 && digits.length <= 12 : digits.length === 10 || digits.length === 11;
  return /^(?:1[ .-])?(?:\(\d{3}\) ?|\d{3}[ .-])\d{3}[ .-]\d{4}$/.test(text);
}

/** Whether digits in groups begin as a date does: a day, a month and a year, in whatever order. */
function isDate(text: string): boolean {
  const groups = /^\(?(\d{1,4})([./-])(\d{1,2})\2(\d{1,4})(?!\d)/.exec(text);
  if (!groups) return false;
  const [first, second, third] = [groups[1], groups[3], groups[4]].map(Number) as [number, number, number];
  const [day, month] = first > 31 ? [third, second] : [first, second];
  return (day <= 31 && month <= 12) || (day <= 12 && month <= 31);
}

/** The number of a payment card: 13 to 19 digits in one, or in the groups that cards show, with its check digit (ISO/IEC 7812-1, annex B). */
function isCard(text: string): boolean {
  const groups = text.split(/[ -]/).map(({ length }) => length);
  const isShown =
    groups.length === 1 ||
    isInFours(groups) ||
    (groups.length === 3 && groups[0] === 4 && groups[1] === 6 && (groups[2] === 5 || groups[2] === 4));
  const digits = digitsOf(text);
  if (!isShown || digits.length < 13 || digits.length > 19 || /^(\d)\1+$/.test(digits)) return false;
  let sum = 0;
  for (let at = 0; at < digits.length; at += 1) {
    const digit = Number(digits[digits.length - 1 - at]);
    sum += at % 2 === 0 ? digit : digit > 4 ? digit * 2 - 9 : digit * 2;
  }
  return sum % 10 === 0;
}

/** The number of a bank account as ISO 13616 has it (IBAN), in one or in groups of four, with its check digits (ISO/IEC 7064, MOD 97-10). */
function isAccount(text: string): boolean {
  if (!isInFours(text.split(/[ -]/).map(({ length }) => length)) && /[ -]/.test(text)) return false;
  const plain = text.replace(/[ -]/g, "").toUpperCase();
  if (plain.length < 15 || plain.length > 34) return false;
  let rest = 0;
  for (const sign of plain.slice(4) + plain.slice(0, 4)) {
    const value = Number.parseInt(sign, 36);
    rest = (rest * (value > 9 ? 100 : 10) + value) % 97;
  }
  return rest === 1;
}

/** Whether groups have four signs each, but for the last. */
function isInFours(groups: readonly number[]): boolean {
  const last = groups.at(-1) ?? 0;
  return groups.length > 1 && groups.slice(0, -1).every((length) => length === 4) && last >= 1 && last <= 4;
}
