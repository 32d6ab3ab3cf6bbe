import type { Language } from "./languages/language";
import type { Reading } from "./token";

/** A stretch of tokens that a fact takes. */
interface Taken {
  first: number;
  next: number;
}

/** Tokens behind a denial in which a limit takes it away: "can't bring more than". */
const reach = 4;

/**
 * Which facts are denied: those in a clause that denies, or behind what excepts them. A clause ends at a mark, at the end
 * of a line, and at words such as "but".
 */
export function deniedIn(reading: Reading, facts: readonly Taken[], language: Language): boolean[] {
  const end = reading.tokens.length;
  /** Which tokens a fact takes: 1 for its first, 2 for the others. */
  const taken = new Uint8Array(end + 1);
  for (const { first, next } of facts) {
    taken.fill(2, first, next);
    taken[first] = 1;
  }
  const denied = facts.map(() => false);
  let from = 0;
  let nth = 0;
  for (let at = 0; at <= end; at++) {
    if (at < end && (taken[at] === 2 || !parts(reading, at, from, language))) continue;
    const start = deniedFrom(reading, { first: from, next: at }, taken, language);
    for (; nth < facts.length && (facts[nth]?.first ?? end) < at; nth++)
      denied[nth] = start !== undefined && (facts[nth]?.first ?? 0) >= start;
    from = at;
  }
  return denied;
}

/** Whether a clause ends before a token. */
function parts(reading: Reading, place: number, from: number, language: Language): boolean {
  if (place === from) return false;
  const { kind, text } = reading.tokens[place] ?? { kind: "break", text: "" };
  if (kind === "break") return true;
  if (kind === "mark") return /^[.!?;:,()—–|。、！？「」…]$/.test(text);
  // "ではなく" denies what stands before it
  if (language.name === "ja") return reading.at(place - 2) === "な" && reading.at(place - 1) === "く";
  return language.negation.parts.has(reading.at(place));
}

/** From which token on the facts of a clause are denied; undefined where they are not. */
function deniedFrom(
  reading: Reading,
  { first, next }: Taken,
  taken: Uint8Array,
  { negation }: Language,
): number | undefined {
  const begin = reading.kind(first) === "word" ? first : first + 1;
  const isSupposed = negation.supposes.has(reading.at(begin));
  let from: number | undefined;
  for (let at = first; at < next; at++) {
    if (taken[at] !== 0) continue;
    if (reading.after(at, negation.excepts) > at) from = Math.min(from ?? at, at);
    if (isSupposed || !negation.denies(reading, at)) continue;
    if (!isLimited(reading, at, next, negation.limits)) return first;
  }
  return from;
}

/** Whether what denies is only a limit: "can't bring more than". */
function isLimited(reading: Reading, place: number, next: number, limits: ReadonlySet<string>): boolean {
  for (let at = place + 1; at <= place + reach && at < next; at++) if (limits.has(reading.at(at))) return true;
  return false;
}
