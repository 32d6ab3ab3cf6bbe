import { longUnits } from "./languages/japanese";
import type { Language, Unit } from "./languages/language";
import { type NumberRead, numberAt } from "./number";
import type { Reading } from "./token";

/** A figure at a place: what it counts, or nothing where that is not said. */
export interface FigureRead {
  value: number;
  unit: string | undefined;
  next: number;
  isWord: boolean;
}

/** A figure that begins at a place: "35 minutes", "10 %", "four bicycle places", "berth 3", "half an hour", or a bare number. */
export function figureAt(reading: Reading, place: number, language: Language): FigureRead | undefined {
  const { stretches, labels } = language;
  const word = reading.at(place);
  const stretch = stretches.find(([words]) => words[0] === word && reading.says(place, words));
  if (stretch) return { value: stretch[1], unit: "min", next: place + stretch[0].length, isWord: true };
  if (labels.has(word)) {
    const labelled = labelledAt(reading, place, language);
    if (labelled) return labelled;
  }
  const number = numberAt(reading, place, language);
  if (!number || isName(reading, place, language)) return undefined;
  return withUnit(reading, number, language);
}

/** A number that only numbers what it stands behind: "berth 3". */
function labelledAt(reading: Reading, place: number, language: Language): FigureRead | undefined {
  const number = numberAt(reading, place + 1, language);
  if (!number || !Number.isInteger(number.value) || number.value < 1) return undefined;
  const { next, value, isWord } = withUnit(reading, number, language) ?? number;
  if (next !== number.next || (reading.at(next) === ":" && reading.kind(next + 1) === "digits")) return undefined;
  return { value, unit: `label ${reading.at(place)}`, next, isWord };
}

/** Whether digits belong to a name or a code: "A4", "v2". */
function isName(reading: Reading, place: number, language: Language): boolean {
  const before = reading.at(place - 1);
  return language.name !== "ja" && reading.kind(place) === "digits" && reading.isGlued(place) && /\p{L}$/u.test(before);
}

function withUnit(reading: Reading, number: NumberRead, language: Language): FigureRead | undefined {
  const { value, next, isWord } = number;
  const measure = measureAt(reading, next, language);
  if (measure)
    return composite(
      reading,
      { value: rounded(value * measure.factor), unit: measure.unit, next: measure.next, isWord },
      measure,
      language,
    );
  const word = reading.at(next);
  // "3D", "2nd": no figure
  if (!isWord && language.name !== "ja" && reading.kind(next) === "word" && reading.isGlued(next)) return undefined;
  const counted = language.counted(reading, next, value);
  if (counted) return { value, unit: counted.noun, next: counted.next, isWord };
  return word === "×" || word === "x"
    ? { value, unit: undefined, next: next + 1, isWord }
    : { value, unit: undefined, next, isWord };
}

const degrees = new Set(["°", "degrees", "degree", "grad", "degrés", "degré", "grados"]);
const celsius = new Set(["c", "celsius"]);

/** The unit at a place. */
export function measureAt(reading: Reading, place: number, language: Language): (Unit & { next: number }) | undefined {
  const at = reading.at(place) === "-" && reading.isGlued(place) && reading.isGlued(place + 1) ? place + 1 : place;
  const word = reading.at(at);
  if (word === "%") return { unit: "%", factor: 1, next: at + 1 };
  if (reading.says(at, ["per", "cent"]) || reading.says(at, ["pour", "cent"]) || reading.says(at, ["por", "ciento"]))
    return { unit: "%", factor: 1, next: at + 2 };
  if (degrees.has(word)) {
    const scale = reading.at(at + 1);
    if (celsius.has(scale)) return { unit: "°C", factor: 1, next: at + 2 };
    return scale === "f" || scale === "fahrenheit"
      ? { unit: "°F", factor: 1, next: at + 2 }
      : { unit: "°", factor: 1, next: at + 1 };
  }
  if (reading.says(at, ["km", "/", "h"])) return { unit: "km/h", factor: 1, next: at + 3 };
  if (language.name === "ja") {
    const long = longUnits.find(([signs]) => reading.says(at, signs));
    if (long) return { ...long[1], next: at + long[0].length };
  }
  const unit = language.units.get(word);
  return unit && { ...unit, next: at + 1 };
}

const halves = [["and", "a", "half"], ["et", "demie"], ["et", "demi"], ["y", "media"], ["半"]];

/** "1 hour 30 minutes", "2 h 15 min", "two hours and a half": hours and what is said behind them. */
function composite(reading: Reading, figure: FigureRead, { unit, factor }: Unit, language: Language): FigureRead {
  if (unit !== "min" || factor !== 60) return figure;
  const half = reading.after(figure.next, halves);
  if (half > figure.next) return { ...figure, value: figure.value + 30, next: half };
  const at = /^(?:and|und|et|y|,)$/.test(reading.at(figure.next)) ? figure.next + 1 : figure.next;
  const minutes = numberAt(reading, at, language);
  const measure = minutes && minutes.value < 60 ? measureAt(reading, minutes.next, language) : undefined;
  if (!minutes || measure?.unit !== "min" || measure.factor !== 1) return figure;
  return { ...figure, value: rounded(figure.value + minutes.value), next: measure.next };
}

/** A figure as a fact has it: `4 bicycle`, `30 min`, `42`, `berth 3`. */
export function figureValue(value: number, unit: string | undefined): string {
  if (unit?.startsWith("label ")) return `${unit.slice(6)} ${value}`;
  return unit === undefined ? String(value) : `${value} ${unit}`;
}

function rounded(value: number): number {
  return Math.round(value * 1e6) / 1e6;
}
