import { sentencesOf } from "./words";

/** A part of an answer, read back from its Markdown. */
export type Part =
  | { kind: "prose"; text: string }
  | { kind: "heading"; text: string }
  | { kind: "code"; text: string }
  /** A list or a table: rows of cells. */
  | { kind: "rows"; head: string[]; rows: string[][] };

/** The parts of a Markdown text. */
export function partsOf(text: string): Part[] {
  const document = documentIn(text);
  if (document !== undefined) return [partOf(document)];
  const parts: Part[] = [];
  const chunks = text.split(/(```[\s\S]*?```)/);
  for (const chunk of chunks) {
    if (chunk.startsWith("```")) parts.push({ kind: "code", text: chunk });
    else for (const line of chunk.split("\n")) readLine(line.trim(), parts);
  }
  return parts;
}

/** The JSON document that a text is. */
function documentIn(text: string): object | undefined {
  if (!/^\s*[{[]/.test(text)) return undefined;
  try {
    return JSON.parse(text) as object;
  } catch {
    return undefined;
  }
}

/** A document of the kinds that `joinedDocument` writes, read back. */
function partOf(document: object): Part {
  const text = (value: unknown) => (typeof value === "object" ? JSON.stringify(value) : String(value));
  if (Array.isArray(document)) {
    const head = Object.keys((document[0] as object | undefined) ?? {});
    return {
      kind: "rows",
      head,
      rows: document.map((row: Record<string, unknown>) => head.map((name) => text(row[name]))),
    };
  }
  const { points, answer } = document as { points?: unknown[]; answer?: unknown };
  if (Array.isArray(points)) return { kind: "rows", head: [], rows: points.map((point) => [text(point)]) };
  if (answer !== undefined) return { kind: "prose", text: text(answer) };
  return { kind: "rows", head: [], rows: Object.entries(document).map(([name, value]) => [name, text(value)]) };
}

function readLine(line: string, parts: Part[]): void {
  if (line === "") return;
  const item = /^(?:[-*•]|\d+[.)])\s+(?:\[[ x]\]\s+)?(.*)$/.exec(line)?.[1];
  const cells = line.startsWith("|")
    ? line
        .replace(/^\||\|$/g, "")
        .split("|")
        .map((cell) => cell.trim())
    : undefined;
  const before = parts.at(-1);
  if (cells?.every((cell) => /^:?-+:?$/.test(cell))) {
    // what stood above the rule is the head
    if (before?.kind === "rows") before.head = before.rows.pop() ?? [];
  } else if (cells || item !== undefined) {
    const row = cells ?? cellsOf(item ?? "");
    if (before?.kind === "rows") before.rows.push(row);
    else parts.push({ kind: "rows", head: [], rows: [row] });
  } else if (/^#+\s/.test(line)) parts.push({ kind: "heading", text: line.replace(/^#+\s+/, "") });
  else parts.push({ kind: "prose", text: line });
}

/** The cells of a list's item: `**8:10**, four places` and `Flour: 200 g` are two. */
function cellsOf(item: string): string[] {
  const bold = /^\*\*(.+?)\*\*[,:]?\s*(.*)$/.exec(item);
  if (bold) return [bold[1] ?? "", ...(bold[2] ? bold[2].split(", ") : [])];
  const named = /^([^:.,]{2,30}):\s+([^.!?]{1,60})$/.exec(item);
  return named ? [named[1] ?? "", named[2] ?? ""] : [item];
}

/** Parts as a table, a list, numbered steps, or JSON. */
export function joinedDocument(parts: readonly Part[], kind: "table" | "list" | "steps" | "json"): string {
  const code = parts.filter((part) => part.kind === "code").map(({ text }) => text);
  const rows = parts.find((part) => part.kind === "rows");
  const lead = parts.find((part) => part.kind === "prose");
  if (kind === "json") return JSON.stringify(jsonOf(parts));
  if (rows?.kind === "rows" && (rows.rows.length > 1 || rows.head.length > 0)) {
    const shown = kind === "table" ? tableOf(rows.head, rows.rows) : listOf(rows.rows, kind);
    return [...(lead ? [lead.text] : []), shown, ...code].join("\n\n");
  }
  const points = parts
    .flatMap((part) => (part.kind === "prose" ? sentencesOf(part.text) : part.kind === "rows" ? part.rows.flat() : []))
    .map((point) => point.replace(/:$/, ""));
  const shown =
    kind === "table"
      ? tableOf(
          ["No.", "Point"],
          points.map((point, at) => [`${at + 1}`, point]),
        )
      : listOf(
          points.map((point) => [point]),
          kind,
        );
  return [shown, ...code].join("\n\n");
}

function tableOf(head: readonly string[], rows: readonly string[][]): string {
  const width = Math.max(head.length, ...rows.map((cells) => cells.length));
  const names = Array.from({ length: width }, (_, at) => head[at] ?? (at === 0 ? "What" : at === 1 ? "Which" : "Note"));
  const line = (cells: readonly string[]) =>
    `| ${names.map((_, at) => (cells[at] ?? "").replace(/\*\*/g, "")).join(" | ")} |`;
  return [line(names), line(names.map(() => "---")), ...rows.map(line)].join("\n");
}

function listOf(rows: readonly string[][], kind: "list" | "steps"): string {
  const mark = (at: number) => (kind === "steps" ? `${at + 1}.` : "-");
  return rows
    .map(([first = "", ...rest], at) => `${mark(at)} ${rest.length > 0 ? `**${first}**, ${rest.join(", ")}` : first}`)
    .join("\n");
}

function jsonOf(parts: readonly Part[]): unknown {
  const rows = parts.find((part) => part.kind === "rows");
  const clean = (text: string) => text.replace(/\*\*|`/g, "");
  if (rows?.kind === "rows") {
    const { head, rows: cells } = rows;
    if (head.length > 0)
      return cells.map((row) =>
        Object.fromEntries(head.map((name, at) => [clean(name).toLowerCase(), clean(row[at] ?? "")])),
      );
    if (cells.every((row) => row.length === 2))
      return Object.fromEntries(cells.map(([name = "", value = ""]) => [clean(name).toLowerCase(), clean(value)]));
    return { points: cells.map((row) => clean(row.join(", "))) };
  }
  const sentences = parts.flatMap((part) => (part.kind === "prose" ? sentencesOf(part.text) : [])).map(clean);
  return sentences.length === 1 ? { answer: sentences[0] } : { points: sentences };
}
