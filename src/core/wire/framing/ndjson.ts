import { parseShallow } from "../json";
import type { Cutter, Frame, Framing } from "./framing";

/** Reads one JSON document a line; empty lines are read over. The last line needs no end. */
export class NdjsonCutter implements Cutter {
  /** Parts of a line whose end has not come; joined once, since joining at each chunk is quadratic. */
  private parts: string[] = [];

  feed(text: string): Frame[] {
    const frames: Frame[] = [];
    let at = 0;
    for (let end = text.indexOf("\n"); end >= 0; end = text.indexOf("\n", at)) {
      this.line(text.slice(at, end), frames);
      at = end + 1;
    }
    if (at < text.length) this.parts.push(text.slice(at));
    return frames;
  }

  close(): Frame[] {
    const frames: Frame[] = [];
    this.line("", frames);
    return frames;
  }

  private line(rest: string, frames: Frame[]): void {
    let line = rest;
    if (this.parts.length > 0) {
      line = this.parts.join("") + rest;
      this.parts = [];
    }
    if (/\S/.test(line)) frames.push({ name: "", data: line });
  }
}

/** One JSON document a line. */
export const ndjson: Framing = {
  saying: "one JSON document a line",
  usualType: "application/x-ndjson",
  types: /^application\/(?:x-)?(?:ndjson|jsonl|json-?lines|stream\+json|json-seq)\b/i,
  isTold: true,
  isIn(body) {
    const lines = body.split("\n").filter((line) => line.trim() !== "");
    return lines.length > 1 && lines.slice(0, -1).every((line) => typeof parseShallow(line) === "object");
  },
  cutter: () => new NdjsonCutter(),
  around: () => ["", "\n"],
};
