import { currencyAt } from "./amount";
import { measureAt } from "./figure";
import type { Language, Unit } from "./languages/language";
import type { Reading } from "./token";

/** What the head of a column says of the numbers in it. */
export interface Column {
  currency?: string;
  unit?: Unit;
  /** What is counted. */
  noun?: string;
  /** Whether the column holds names, and whether it only numbers the rows. */
  isNames: boolean;
  isNumbering: boolean;
}

const ofNames = new Set(
  "to from where island name place port harbour destination who stop town person skipper boat ship".split(" "),
);

const ofNumbers = new Set("# no nr n n° nº num number pos row item rang 番号".split(" "));

/** The cells of the tables of Markdown in a text: the column of each token in a body, and which tokens are heads. */
export class Tables {
  private readonly columns = new Map<number, Column>();
  private readonly heads = new Set<number>();

  constructor(reading: Reading, language: Language) {
    const lines = linesOf(reading);
    for (const [at, line] of lines.entries()) {
      const rule = lines[at + 1];
      if (!isRow(reading, line) || !rule || !isRule(reading, rule)) continue;
      const columns = cellsOf(reading, line).map((cell) => columnOf(reading, cell, language));
      for (const place of places(line)) this.heads.add(place);
      for (let body = at + 2; body < lines.length && isRow(reading, lines[body] as Span); body++)
        for (const [nth, cell] of cellsOf(reading, lines[body] as Span).entries())
          for (const place of places(cell)) if (columns[nth]) this.columns.set(place, columns[nth]);
    }
  }

  columnOf(place: number): Column | undefined {
    return this.columns.get(place);
  }

  isHead(place: number): boolean {
    return this.heads.has(place);
  }
}

/** Tokens from one place up to another. */
interface Span {
  from: number;
  to: number;
}

function places({ from, to }: Span): number[] {
  return Array.from({ length: to - from }, (_, at) => from + at);
}

function linesOf({ tokens }: Reading): Span[] {
  const lines: Span[] = [];
  let from = 0;
  for (const [at, { kind }] of tokens.entries())
    if (kind === "break") {
      lines.push({ from, to: at });
      from = at + 1;
    }
  lines.push({ from, to: tokens.length });
  return lines;
}

function isRow(reading: Reading, line: Span): boolean {
  return places(line).some((place) => reading.at(place) === "|");
}

/** The line of dashes under the heads. */
function isRule(reading: Reading, line: Span): boolean {
  return isRow(reading, line) && places(line).every((place) => /^[-|:]$/.test(reading.at(place)));
}

function cellsOf(reading: Reading, line: Span): Span[] {
  const cells: Span[] = [];
  let from = reading.at(line.from) === "|" ? line.from + 1 : line.from;
  for (let at = from; at < line.to; at++)
    if (reading.at(at) === "|") {
      cells.push({ from, to: at });
      from = at + 1;
    }
  if (from < line.to) cells.push({ from, to: line.to });
  return cells;
}

function columnOf(reading: Reading, cell: Span, language: Language): Column {
  const head = reading.at(cell.from);
  const column: Column = {
    isNames: ofNames.has(head) && language.name === "en",
    isNumbering: ofNumbers.has(head),
  };
  for (const place of places(cell)) {
    column.currency ??= currencyAt(reading, place, language);
    column.unit ??= measureAt(reading, place, language);
    // as if two were counted
    column.noun ??= language.counted(reading, place, 2)?.noun;
  }
  return column;
}
