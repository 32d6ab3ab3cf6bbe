import type { Language } from "./languages/language";
import type { Reading } from "./token";

/** Tokens of the longest answer. */
const longest = 3;

/**
 * An answer with which a sentence begins: "Yes,", "No.", "はい、", which stand for themselves or before who is meant ("Yes,
 * you can"), and "Neither runs", "Both boats", where they are not parted into "neither … nor".
 */
export function answerAt(
  reading: Reading,
  place: number,
  { answers, ofTwo, subjects, parted }: Language,
): { value: string; next: number } | undefined {
  if (!reading.begins(place)) return undefined;
  let said = "";
  for (let next = place; next < place + longest && reading.kind(next) === "word"; ) {
    said += reading.at(next);
    next += 1;
    const value = answers.get(said);
    if (value === undefined) continue;
    if (stands(reading, next) || subjects.has(reading.at(next))) return { value, next };
    const isFirst = !/^[:;]$/.test(reading.at(place - 1));
    const goesOn = ofTwo.has(value) && isFirst && reading.kind(next) === "word";
    if (goesOn && !isParted(reading, next, parted)) return { value, next };
  }
  return undefined;
}

/** Whether one of some words follows in the same sentence. */
function isParted(reading: Reading, place: number, words: ReadonlySet<string>): boolean {
  for (let at = place; reading.kind(at) !== "end" && reading.kind(at) !== "break"; at++) {
    if (words.has(reading.at(at))) return true;
    if (/^[.!?;]$/.test(reading.at(at)) && !reading.isGlued(at + 1)) return false;
  }
  return false;
}

function stands(reading: Reading, next: number): boolean {
  const kind = reading.kind(next);
  return kind === "end" || kind === "break" || /^[,.!:;—–、。]$/.test(reading.at(next));
}
