import type { Frame } from "../framing/framing";
import { type FramingName, framingIn, framingOf } from "../framing/framings";
import { parseShallow } from "../json";
import { headersIn } from "./http";
import { withoutWrapping } from "./plain";

/** An answer as it was pasted. */
export interface PastedAnswer {
  framing: FramingName;
  /** 200 where the body alone was pasted. */
  status: number;
  contentType: string;
  /** By their names in small letters; none where the body alone was pasted. */
  headers: Record<string, string>;
  body: string;
  /** Its events; one for an answer that is whole. */
  frames: Frame[];
}

/**
 * Reads a pasted answer: its framing and its events. HTTP headers before it are heeded, as `curl -i` and `curl -v` print
 * them: of several heads, such as `100 Continue` or a redirect, the last counts.
 */
export function answerIn(pasted: string): PastedAnswer {
  const { head, body: written } = headAndBody(withoutTalk(withoutWrapping(pasted)));
  const headers = Object.fromEntries(headersIn(head).map(([name, value]) => [name.toLowerCase(), value]));
  const body = bodyAsSent(written);
  const framing = framingIn(body);
  const contentType = headers["content-type"] || framingOf(framing).usualType;
  const status = Number(/^HTTP\/[\d.]+ (\d{3})/.exec(head[0] ?? "")?.[1] ?? 200);
  return { framing, status, contentType, headers, body, frames: framesOf(framing, body) };
}

/** A body as it was sent, where the way on which it was copied added something to it or took something away. */
function bodyAsSent(written: string): string {
  const steps = [withoutMeter, withoutSizes, fromText, withoutTimes, fromTable, withBlankLines];
  return steps.reduce((body, step) => step(body), written);
}

/** Without the lines in which curl shows how far it is. */
function withoutMeter(body: string): string {
  return body.replace(
    /^\s*% Total[^\n]*\n[^\n]*Dload[^\n]*\n(?:[^\n\r]{0,60}[\d-]{1,2}:[\d-]{2}:[\d-]{2}[^\n\r]{0,60}[\n\r]+)*/,
    "",
  );
}

/** Without the sizes of its chunks (RFC 9112, 7.1), as what is seen on the wire has them. */
function withoutSizes(body: string): string {
  const chunk = /([\da-f]{1,6})[ \t]*\r?\n/iy;
  let rest = 0;
  let whole = "";
  for (let isLast = false; !isLast; ) {
    chunk.lastIndex = rest;
    const size = chunk.exec(body);
    if (!size) return body;
    const length = Number.parseInt(size[1] as string, 16);
    whole += body.slice(chunk.lastIndex, chunk.lastIndex + length);
    rest = chunk.lastIndex + length;
    const [lineEnd = ""] = /^\r?\n/.exec(body.slice(rest, rest + 2)) ?? [];
    isLast = length === 0;
    if (!isLast && lineEnd === "") return body;
    rest += lineEnd.length;
  }
  return whole === "" ? body : whole;
}

/** Out of one text of JSON that holds all of it. */
function fromText(body: string): string {
  const text = /^\s*"/.test(body) ? parseShallow(body) : undefined;
  return typeof text === "string" && /^\s*(?:[{[]|data:|event:|:)/.test(text) ? text : body;
}

/** Without the moment before each line, as logs have it. */
function withoutTimes(body: string): string {
  const moment = /^\[?(?:\d{4}-\d\d-\d\d[T ])?\d\d:\d\d:\d\d(?:[.,]\d+)?(?:Z|[+-]\d\d:?\d\d)?\]?[ \t]+/;
  const lines = body.split("\n");
  const filled = lines.filter((line) => line.trim() !== "");
  if (filled.length === 0 || !filled.every((line) => moment.test(line))) return body;
  return lines.map((line) => line.replace(moment, "")).join("\n");
}

/** Out of a table of events, as browsers show them: the kind, the data and the moment of each between tabs. */
function fromTable(body: string): string {
  const rows = body.split(/\r?\n/).filter((line) => line.trim() !== "");
  const columns = rows.map((row) => row.split("\t"));
  const isTable = columns.length > 0 && columns.every((each) => each.length >= 2 && each.length <= 4);
  const at = columns[0]?.findIndex((each) => /^[{[]/.test(each.trim())) ?? -1;
  if (!isTable || at < 0) return body;
  return columns
    .map((each) => {
      const kind = at > 0 ? (each[at - 1] as string).trim() : "";
      const named = /^[A-Za-z_][\w.-]*$/.test(kind) && kind !== "message" ? `event: ${kind}\n` : "";
      return `${named}data: ${each[at]?.trim() ?? ""}\n\n`;
    })
    .join("");
}

/** With the empty lines between its events, where what was pasted lost them. */
function withBlankLines(body: string): string {
  const lines = body.split(/\r?\n/);
  const firstBlank = lines.indexOf("");
  if (firstBlank >= 0 && firstBlank < lines.findLastIndex((line) => line !== "")) return body;
  const data = lines.filter((line) => line.startsWith("data:"));
  const isEach = data.length > 1 && data.slice(0, 2).every((line) => parseShallow(line.slice(5)) !== undefined);
  return isEach ? lines.map((line) => (line.startsWith("data:") ? `${line}\n` : line)).join("\n") : body;
}

/** What `curl -v` says beside the answer taken out: its own notes, and the request; the head of the answer stays. */
function withoutTalk(pasted: string): string {
  if (!/^[*<>] /m.test(pasted) || !/^< HTTP\//m.test(pasted)) return pasted;
  const lines = pasted.split(/\r?\n/);
  const talk = /^(?:[*>](?: |$)|[{}] \[\d+ bytes data\])/;
  return lines
    .filter((line) => !talk.test(line))
    .map((line) => (/^<(?: |$)/.test(line) ? line.slice(2) : line))
    .join("\n");
}

/** A line that only an answer's head has: the first of a whole head, or a header where the status line was not copied. */
const statusLine = /^\s*HTTP\/[\d.]+ \d{3}/;
const headerLine = /^[\w-]{1,100}:(?:[ \t]|$)/;

/** The last head before a body, and the body. A head goes up to the first empty line, or to the end. */
function headAndBody(text: string): { head: string[]; body: string } {
  let head: string[] = [];
  let body = text;
  while (statusLine.test(body.slice(0, 200))) [head, body] = cutHead(body.trimStart());
  if (head.length > 0 || !headerLine.test(body)) return { head, body };
  const [bare, rest] = cutHead(body);
  const isHead = rest !== "" && bare.every((line) => headerLine.test(line));
  const isTyped = bare.some((line) => /^content-type:/i.test(line));
  return isHead && isTyped ? { head: bare, body: rest } : { head, body };
}

function cutHead(text: string): [head: string[], rest: string] {
  const empty = /\r?\n[ \t]*\r?(?:\n|$)/.exec(text);
  const end = empty?.index ?? text.length;
  return [text.slice(0, end).split(/\r?\n/), text.slice(end + (empty?.[0].length ?? 0))];
}

function framesOf(name: FramingName, body: string): Frame[] {
  if (name === "json") return [{ name: "", data: body }];
  const cutter = framingOf(name).cutter?.();
  // what was pasted may have lost the empty line at its end
  return cutter ? [...cutter.feed(`${body}\n\n`), ...cutter.close()] : [];
}
