import { parseShallow } from "../json";
import type { Cutter, Frame, Framing } from "./framing";

/** Lines that a document over several may have. */
const mostLines = 1_000;
/** Characters that it may have. */
const longestOpened = 1_048_576;

/**
 * Reads one JSON document a line; empty lines are read over. The last line needs no end. A document that was written over
 * several lines, as errors often are, begins with a line of its opening bracket alone, and is put together.
 */
export class NdjsonCutter implements Cutter {
  /** Parts of a line whose end has not come; joined once, since joining at each chunk is quadratic. */
  private parts: string[] = [];
  /** Lines of a document that began with its bracket alone. */
  private opened: string[] = [];
  private openedLength = 0;

  feed(text: string): Frame[] {
    // JSON holds no bare carriage return but between its parts, so that lines may end by one alone
    const lines = text.includes("\r") ? text.replaceAll("\r", "\n") : text;
    const frames: Frame[] = [];
    let at = 0;
    for (let end = lines.indexOf("\n"); end >= 0; end = lines.indexOf("\n", at)) {
      this.line(lines.slice(at, end), frames);
      at = end + 1;
    }
    if (at < lines.length) this.parts.push(lines.slice(at));
    return frames;
  }

  close(): Frame[] {
    const frames: Frame[] = [];
    this.line("", frames);
    if (this.opened.length > 0) frames.push({ name: "", data: this.opened.join("\n") });
    this.opened = [];
    return frames;
  }

  private line(rest: string, frames: Frame[]): void {
    let line = rest;
    if (this.parts.length > 0) {
      line = this.parts.join("") + rest;
      this.parts = [];
    }
    if (this.opened.length > 0 || /^\s*[{[]\s*$/.test(line)) this.addOpened(line, frames);
    else if (/\S/.test(line)) frames.push({ name: "", data: line });
  }

  /** A line of a document over several, which goes on to be looked at until it is whole. */
  private addOpened(line: string, frames: Frame[]): void {
    this.opened.push(line);
    this.openedLength += line.length;
    // only what ends like a document is read as one, and what is too long to be one is no longer waited for
    const isLong = this.opened.length > mostLines || this.openedLength > longestOpened;
    if (!isLong && !/^\s*[}\]]\s*$/.test(line)) return;
    const data = this.opened.join("\n");
    if (!isLong && parseShallow(data) === undefined) return;
    this.opened = [];
    this.openedLength = 0;
    frames.push({ name: "", data });
  }
}

/** One JSON document a line. */
export const ndjson: Framing = {
  saying: "one JSON document a line",
  usualType: "application/x-ndjson",
  types: /^application\/(?:x-)?(?:ndjson|jsonl|json-?lines|stream\+json)\b/i,
  isTold: true,
  isIn(body) {
    const lines = body.split("\n").filter((line) => line.trim() !== "");
    return lines.length > 1 && lines.slice(0, -1).every((line) => typeof parseShallow(line) === "object");
  },
  begins(opening, canBeWhole) {
    const [first, ...rest] = opening
      .split(/[\r\n]/)
      .filter((line, at, all) => line.trim() !== "" || at === all.length - 1);
    if (first === undefined || rest.length === 0) return undefined;
    const document = parseShallow(first);
    if (typeof document !== "object" || document === null) return false;
    // one line may be all of a document: another one shows that it is not
    return !canBeWhole || rest.some((line) => line.trim() !== "") ? true : undefined;
  },
  cutter: () => new NdjsonCutter(),
  around: () => ["", "\n"],
};
