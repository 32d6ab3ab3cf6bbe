import { createReadStream } from "node:fs";

/** Bytes that a line may have. */
const longest = 32 * 1024 * 1024;
const newline = 10;

/** A line of a file: its text, none where it is longer than a line may be, its number from 1, and where it ends. */
export interface ReadLine {
  text: string | undefined;
  line: number;
  bytes: number;
}

/** The lines of a file (UTF-8), one by one; of one that is too long no more is kept than is needed to pass it. */
export async function* readLines(file: string): AsyncGenerator<ReadLine> {
  let parts: Buffer[] = [];
  let [size, line, bytes] = [0, 1, 0];
  const whole = (): ReadLine => {
    const text = size > longest ? undefined : Buffer.concat(parts).toString("utf8");
    const read = { text: line === 1 ? text?.replace(/^\uFEFF/, "") : text, line, bytes };
    parts = [];
    size = 0;
    line += 1;
    return read;
  };
  const keep = (part: Buffer) => {
    size += part.length;
    if (size > longest) parts = [];
    else parts.push(part);
  };
  for await (const chunk of createReadStream(file, { highWaterMark: 256 * 1024 }) as AsyncIterable<Buffer>) {
    let from = 0;
    for (let at = chunk.indexOf(newline); at >= 0; at = chunk.indexOf(newline, from)) {
      keep(chunk.subarray(from, at));
      bytes += at + 1 - from;
      from = at + 1;
      yield whole();
    }
    keep(chunk.subarray(from));
    bytes += chunk.length - from;
  }
  if (size > 0) yield whole();
}
