import { parseShallow } from "../json";
import type { Cutter, Frame, Framing } from "./framing";

/** What stands before each text (RFC 7464, 2.2). */
const separator = "\u001e";

/** Parts of a text that are looked at as one at the end of a line. */
const mostParts = 200;

/**
 * Reads a JSON text sequence (https://www.rfc-editor.org/rfc/rfc7464): each text begins with a record separator and ends
 * with a line feed, and may have line feeds in it. One that is whole at a line feed is handed on there, since the next
 * separator may come much later.
 */
export class SequenceCutter implements Cutter {
  /** Parts of the text that has not ended. */
  private parts: string[] = [];

  feed(text: string): Frame[] {
    const frames: Frame[] = [];
    let at = 0;
    for (let next = ends(text, 0); next >= 0; next = ends(text, at)) {
      this.parts.push(text.slice(at, next));
      if (text[next] === separator) this.end(frames);
      else if (this.isWhole()) this.end(frames);
      else this.parts.push("\n");
      at = next + 1;
    }
    if (at < text.length) this.parts.push(text.slice(at));
    return frames;
  }

  close(): Frame[] {
    const frames: Frame[] = [];
    this.end(frames);
    return frames;
  }

  /** Whether the text so far is JSON; only one that ends like it is looked at. */
  private isWhole(): boolean {
    // what has gone on over many lines is handed on at the next separator, so that it is not read again at each line
    if (this.parts.length > mostParts || !/["\]}\w]\s*$/.test(this.parts.at(-1) ?? "")) return false;
    return parseShallow(this.parts.join("")) !== undefined;
  }

  private end(frames: Frame[]): void {
    const data = this.parts.join("");
    this.parts = [];
    if (/\S/.test(data)) frames.push({ name: "", data });
  }
}

function ends(text: string, from: number): number {
  for (let at = from; at < text.length; at++) if (text[at] === separator || text[at] === "\n") return at;
  return -1;
}

/** A JSON text sequence. */
export const sequence: Framing = {
  saying: "a JSON text sequence",
  usualType: "application/json-seq",
  types: /^application\/(?:[\w.-]+\+)?json-seq\b/i,
  isTold: true,
  isIn: (body) => body.trimStart().startsWith(separator),
  begins: (opening) => (opening.trim() === "" ? undefined : opening.trimStart().startsWith(separator)),
  cutter: () => new SequenceCutter(),
  around: () => [separator, "\n"],
};
