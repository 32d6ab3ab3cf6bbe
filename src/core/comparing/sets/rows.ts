import { parse } from "csv-parse/browser/esm/sync";

/** Rows that a set may have, messages of a row, and characters of a message. */
export const mostRows = 500;
export const mostSaid = 20;
export const longestSaid = 10_000;

/** A row of a set: what a visitor says, one message after another, in a conversation of its own. */
export type Row = readonly string[];

/** A line of a set that can't be taken, from 1. */
export interface RowFault {
  line: number;
  why: string;
}

/** A set that was read: its rows, and what could not be taken. */
export interface ReadRows {
  rows: Row[];
  faults: RowFault[];
}

/**
 * Reads a set as it is typed: a line a message. A line that is indented goes on with the conversation of the line above
 * it. A message that has line breaks or begins with a blank is written as a JSON string.
 */
export function readRows(text: string): ReadRows {
  const rows: string[][] = [];
  const faults: RowFault[] = [];
  for (const [at, line] of text.split(/\r\n?|\n/).entries()) {
    if (line.trim() === "") continue;
    const message = messageIn(line.trim());
    const goesOn = /^[ \t]/.test(line);
    const row = goesOn ? rows.at(-1) : undefined;
    if (message === undefined) faults.push({ line: at + 1, why: "begins with a quote, and is no JSON string" });
    else if (row) row.push(message);
    else rows.push([message]);
  }
  return checked({ rows, faults });
}

function messageIn(line: string): string | undefined {
  if (!line.startsWith('"')) return line;
  try {
    return String(JSON.parse(line));
  } catch {
    return undefined;
  }
}

/** A set as it is typed. `readRows` reads it back as it was. */
export function writtenRows(rows: readonly Row[]): string {
  return rows.map((row) => row.map((said, at) => `${at > 0 ? "  " : ""}${writtenLine(said)}`).join("\n")).join("\n");
}

function writtenLine(said: string): string {
  return said !== said.trim() || /[\r\n]/.test(said) || said.startsWith('"') ? JSON.stringify(said) : said;
}

/**
 * Reads a set from a file: JSON Lines (a string, a list of strings, or an object with `message` or `messages`), columns
 * (the one headed `message`, or else the first), or text as it is typed.
 * @param name the name of the file, by which columns are told
 */
export function readRowsFile(name: string, text: string): ReadRows {
  if (/\.(?:csv|tsv)$/i.test(name)) return readColumns(text, /\.tsv$/i.test(name) ? "\t" : [",", ";"]);
  const lines = text.split(/\r\n?|\n/);
  const first = lines.find((line) => line.trim() !== "") ?? "";
  return /\.(?:jsonl|ndjson|json)$/i.test(name) || /^\s*[[{]/.test(first) ? readLines(lines) : readRows(text);
}

function readLines(lines: readonly string[]): ReadRows {
  const rows: Row[] = [];
  const faults: RowFault[] = [];
  for (const [at, line] of lines.entries()) {
    if (line.trim() === "") continue;
    const row = rowIn(line);
    if (row) rows.push(row);
    else
      faults.push({ line: at + 1, why: "holds no message: a text, a list of texts, or an object with such a message" });
  }
  return checked({ rows, faults });
}

function rowIn(line: string): Row | undefined {
  try {
    const value: unknown = JSON.parse(line);
    const { messages, message } = Object(value) as { messages?: unknown; message?: unknown };
    const all = [Array.isArray(value) ? value : (messages ?? message ?? value)].flat();
    return all.length > 0 && all.every((each) => typeof each === "string") ? all : undefined;
  } catch {
    return undefined;
  }
}

function readColumns(text: string, delimiter: string | string[]): ReadRows {
  try {
    const [head = [], ...records] = parse(text, {
      bom: true,
      delimiter,
      relax_column_count: true,
      skip_empty_lines: true,
    }) as string[][];
    const column = head.findIndex((name) => name.trim().toLowerCase() === "message");
    const cells = (column < 0 ? [head, ...records] : records).map((record) => record[Math.max(column, 0)] ?? "");
    return checked({ rows: cells.filter((cell) => cell.trim() !== "").map((cell) => [cell]), faults: [] });
  } catch (error) {
    return { rows: [], faults: [{ line: 1, why: `can't be read as columns: ${(error as Error).message}` }] };
  }
}

/** What is too much is said, not cut. */
function checked({ rows, faults }: ReadRows): ReadRows {
  const told = rows.flatMap((row, at) =>
    whyNot(row).map((why) => ({ line: at + 1, why: `(message ${at + 1}) ${why}` })),
  );
  if (rows.length > mostRows) told.push({ line: mostRows + 1, why: `is beyond the ${mostRows} rows of a set` });
  return { rows, faults: [...faults, ...told] };
}

function whyNot(row: Row): string[] {
  return [
    row.length > mostSaid && `has more than ${mostSaid} messages`,
    row.some((said) => said.length > longestSaid) && `is longer than ${longestSaid} characters`,
    row.some((said) => said.trim() === "") && "is empty",
  ].filter((why) => why !== false);
}
