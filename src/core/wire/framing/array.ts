import type { Frame, Framing } from "./framing";

const quote = 0x22;

/**
 * Reads the elements of one JSON array (RFC 8259) that grows while it is read. It only finds where
 * an element ends; whether that is JSON shows when it is parsed. A body that is no array is one
 * event, whole when the stream closes: that is how such APIs report an error.
 */
export class ArrayFraming implements Framing {
  /** Parts of an element whose end has not come. */
  private parts: string[] = [];
  private state: "before" | "inside" | "after" | "no array" = "before";
  private depth = 0;
  private inString = false;
  private escaped = false;

  /** Whether the array was closed. */
  get isClosed(): boolean {
    return this.state === "after";
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

  private elements(text: string, from: number, frames: Frame[]): void {
    let start = from;
    for (let at = from; at < text.length; at++) {
      if (this.inString) {
        at = this.pastString(text, at);
        continue;
      }
      switch (text.charCodeAt(at)) {
        case quote:
          this.inString = true;
          break;
        case 0x5b: // [
        case 0x7b: // {
          this.depth += 1;
          break;
        case 0x5d: // ]
        case 0x7d: // }
          this.depth -= 1;
          if (this.depth < 0) {
            this.push(text.slice(start, at), frames);
            this.state = "after";
            return;
          }
          break;
        case 0x2c: // ,
          if (this.depth > 0) break;
          this.push(text.slice(start, at), frames);
          start = at + 1;
          break;
      }
      // an element is handed on as soon as it is whole: the comma after it may come much later
      if (this.depth === 0 && !this.inString && isEnd(text.charCodeAt(at))) {
        this.push(text.slice(start, at + 1), frames);
        start = at + 1;
      }
    }
    if (start < text.length) this.parts.push(text.slice(start));
  }

  /** The place of the quote that ends the string, or the end of the text. */
  private pastString(text: string, from: number): number {
    let at = this.escaped ? from + 1 : from;
    this.escaped = false;
    for (;;) {
      const end = text.indexOf('"', at);
      const isEscaped = slashesBefore(text, end < 0 ? text.length : end, at) % 2 === 1;
      if (end < 0) {
        this.escaped = isEscaped;
        return text.length;
      }
      if (!isEscaped) {
        this.inString = false;
        return end;
      }
      at = end + 1;
    }
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

/** How many backslashes stand right before a place, not looking before `from`. */
function slashesBefore(text: string, place: number, from: number): number {
  let at = place;
  while (at > from && text[at - 1] === "\\") at -= 1;
  return place - at;
}

function isEnd(code: number): boolean {
  return code === 0x5d || code === 0x7d;
}
