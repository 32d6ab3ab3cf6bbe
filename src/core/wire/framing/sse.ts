import type { Cutter, Frame, Framing } from "./framing";

/** Lines beside the events that are kept. */
const mostStrays = 200;
/** Characters that are kept of each. */
const longestStray = 2_000;

/**
 * Reads a stream of server-sent events from text that may be cut anywhere, by the rules of
 * https://html.spec.whatwg.org/multipage/server-sent-events.html#event-stream-interpretation.
 * The id of an event goes along with it; whether one that came before marks a repetition is for the
 * profile to say. Retry times are read over: a reply is never asked for a second time.
 */
export class SseCutter implements Cutter {
  /** Parts of a line whose end has not come; joined once, since joining at each chunk is quadratic. */
  private parts: string[] = [];
  private afterReturn = false;
  private name = "";
  private data: string | undefined;
  private id: string | undefined;
  /** Lines that are no fields, which may be what a server says of a failure without framing it. */
  private strays: string[] = [];

  /** The events that are whole after this text. */
  feed(text: string): Frame[] {
    const events: Frame[] = [];
    let at = 0;
    if (this.afterReturn && text.length > 0) {
      this.afterReturn = false;
      if (text[0] === "\n") at = 1;
    }
    let feedAt = text.indexOf("\n", at);
    let returnAt = text.indexOf("\r", at);
    for (;;) {
      if (feedAt >= 0 && feedAt < at) feedAt = text.indexOf("\n", at);
      if (returnAt >= 0 && returnAt < at) returnAt = text.indexOf("\r", at);
      const end = feedAt < 0 ? returnAt : returnAt < 0 ? feedAt : Math.min(feedAt, returnAt);
      if (end < 0) break;
      this.line(this.whole(text.slice(at, end)), events);
      at = end + 1;
      if (end === returnAt) {
        if (at === text.length) this.afterReturn = true;
        else if (text[at] === "\n") at += 1;
      }
    }
    if (at < text.length) this.parts.push(text.slice(at));
    return events;
  }

  /** An event whose blank line never came is dropped, as the standard has it. */
  close(): Frame[] {
    return [];
  }

  private whole(rest: string): string {
    if (this.parts.length === 0) return rest;
    const line = this.parts.join("") + rest;
    this.parts = [];
    return line;
  }

  private line(line: string, events: Frame[]): void {
    if (line === "") {
      if (this.data !== undefined) events.push({ name: this.name, data: this.data, id: this.id });
      this.data = undefined;
      this.id = undefined;
      this.name = "";
      return;
    }
    if (line.startsWith("data: ")) {
      this.addData(line.slice(6));
      return;
    }
    const colon = line.indexOf(":");
    const field = colon < 0 ? line : line.slice(0, colon);
    const value = colon < 0 ? "" : line.slice(line[colon + 1] === " " ? colon + 2 : colon + 1);
    if (field === "data") this.addData(value);
    else if (field === "event") this.name = value;
    else if (field === "id" && !value.includes("\0")) this.id = value;
    else if (field !== "" && field !== "id" && field !== "retry" && this.strays.length < mostStrays)
      this.strays.push(line.slice(0, longestStray));
  }

  /** What came beside the events: lines of fields that nobody knows. */
  stray(): string {
    return [...this.strays, this.parts.join("").slice(0, longestStray)].join("\n").trim();
  }

  private addData(value: string): void {
    this.data = this.data === undefined ? value : `${this.data}\n${value}`;
  }
}

/** Server-sent events. */
export const sse: Framing = {
  saying: "server-sent events",
  usualType: "text/event-stream",
  types: /^text\/event-stream\b/i,
  isTold: true,
  isIn: (body) =>
    /^\s*(?:(?:data|event|id|retry)?:[^\n\r]*[\r\n]+)/.test(body) && /^data:/m.test(body.replaceAll("\r", "\n")),
  begins(opening) {
    const [, first, end] = /^\s*([^\r\n]*)([\r\n]?)/.exec(opening) ?? [];
    return end ? /^(?:data|event|id|retry)?:/.test(first ?? "") : undefined;
  },
  cutter: () => new SseCutter(),
  around: ({ name }) => [`${name ? `event: ${name}\n` : ""}data: `, "\n\n"],
};
