import { parseShallow } from "../json";
import type { Cutter, Frame, Framing } from "./framing";

const quote = 0x22;
const backslash = 0x5c;
const openBrace = 0x7b;
const closeBrace = 0x7d;
const openBracket = 0x5b;
const closeBracket = 0x5d;
const comma = 0x2c;

/**
 * Reads the elements of one JSON array (RFC 8259) that grows while it is read. It only finds where
 * an element ends; whether that is JSON shows when it is parsed. A body that is no array is one
 * event, whole when the stream closes: that is how such APIs report an error.
 */
export class ArrayCutter implements Cutter {
  /** Parts of an element whose end has not come. */
  private parts: string[] = [];
  private state: "before" | "inside" | "after" | "no array" = "before";
  private depth = 0;
  private inString = false;
  private escaped = false;

  /** Whether the array was not closed yet. */
  get isOpen(): boolean {
    return this.state !== "after";
  }

  feed(text: string): Frame[] {
    const frames: Frame[] = [];
    let at = 0;
    if (this.state === "before") {
      at = text.search(/\S/);
      if (at < 0) return frames;
      this.state = text[at] === "[" ? "inside" : "no array";
      if (this.state === "inside") at += 1;
    }
    if (this.state === "inside") this.elements(text, at, frames);
    else if (this.state === "no array") this.parts.push(text.slice(at));
    return frames;
  }

  close(): Frame[] {
    if (this.state !== "no array") return [];
    return [this.element("")];
  }

  /** One look at each character: strings are only passed over, and brackets are counted. */
  private elements(text: string, from: number, frames: Frame[]): void {
    let { depth, inString, escaped } = this;
    let start = from;
    for (let at = from; at < text.length; at++) {
      const code = text.charCodeAt(at);
      if (inString) {
        if (escaped) escaped = false;
        else if (code === backslash) escaped = true;
        else if (code === quote) inString = false;
      } else if (code === quote) inString = true;
      else if (code === openBrace || code === openBracket) depth += 1;
      else if (code === closeBrace || code === closeBracket) {
        depth -= 1;
        if (depth < 0) {
          this.push(text.slice(start, at), frames);
          this.state = "after";
          return;
        }
        // an element is handed on as soon as it is whole: the comma after it may come much later
        if (depth === 0) {
          this.push(text.slice(start, at + 1), frames);
          start = at + 1;
        }
      } else if (code === comma && depth === 0) {
        this.push(text.slice(start, at), frames);
        start = at + 1;
      }
    }
    if (start < text.length) this.parts.push(text.slice(start));
    Object.assign(this, { depth, inString, escaped });
  }

  private push(rest: string, frames: Frame[]): void {
    const frame = this.element(rest);
    if (/\S/.test(frame.data)) frames.push(frame);
  }

  private element(rest: string): Frame {
    if (this.parts.length === 0) return { name: "", data: rest };
    const data = this.parts.join("") + rest;
    this.parts = [];
    return { name: "", data };
  }
}

/** One JSON array that grows while it is read. */
export const array: Framing = {
  saying: "a JSON array that grows",
  usualType: "application/json",
  types: /^application\/(?:[\w.-]+\+)?json\b/i,
  isTold: false,
  isIn: (body) => Array.isArray(parseShallow(body)) || /^\s*\[\s*\{/.test(body),
  cutter: () => new ArrayCutter(),
  around: () => ["", "\n"],
};
