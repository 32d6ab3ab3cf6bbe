import { parseShallow } from "../json";
import type { Cutter, Frame, Framing } from "./framing";

const quote = 0x22;
const backslash = 0x5c;
const openBrace = 0x7b;
const closeBrace = 0x7d;
const comma = 0x2c;
/** What a brace has more than the bracket of its kind. */
const braceBit = 0x20;

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
    let { depth } = this;
    let start = from;
    let at = this.inString ? this.afterString(text, this.escaped ? from + 1 : from) : from;
    for (; at < text.length; at++) {
      const code = text.charCodeAt(at);
      if (code === quote) {
        at = this.afterString(text, at + 1) - 1;
        continue;
      }
      // one comparison for brackets and braces
      const kind = code | braceBit;
      if (kind === openBrace) depth += 1;
      else if (kind === closeBrace) {
        depth -= 1;
        if (depth < 0) {
          this.pushBare(text.slice(start, at), frames);
          this.state = "after";
          return;
        }
        // an element is handed on as soon as it is whole: the comma after it may come much later
        if (depth === 0) {
          frames.push(this.element(text.slice(start, at + 1)));
          start = at + 1;
        }
      } else if (code === comma && depth === 0) {
        this.pushBare(text.slice(start, at), frames);
        start = at + 1;
      }
    }
    if (start < text.length) this.parts.push(text.slice(start));
    this.depth = depth;
  }

  /** Passes over the rest of a string; gives the place after its closing quote, or the end of the text where that has not come. */
  private afterString(text: string, from: number): number {
    let at = from;
    for (; at < text.length; at++) {
      const code = text.charCodeAt(at);
      if (code === backslash) at += 1;
      else if (code === quote) {
        this.inString = false;
        return at + 1;
      }
    }
    this.inString = true;
    this.escaped = at > text.length;
    return text.length;
  }

  /** What stands between commas without brackets around it: a number, a string, or nothing after an element. */
  private pushBare(rest: string, frames: Frame[]): void {
    if (rest === "" && this.parts.length === 0) return;
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
  begins: (opening) => (opening.trim() === "" ? undefined : opening.trimStart().startsWith("[")),
  cutter: () => new ArrayCutter(),
  around: () => ["", "\n"],
};
