import { createReadStream } from "node:fs";
import http from "node:http";
import { type Problem, problem } from "@/core/problem/problem";

/** One HTTP request, ready to go out. */
export interface Outgoing {
  method: string;
  url: string;
  headers: Record<string, string>;
  /** Text, or parts of it with files between. */
  body?: string | readonly BodyPart[];
}

/** A part of a body: text, or the bytes of a file in base64 (RFC 4648). */
export type BodyPart = { kind: "text"; text: string } | { kind: "file"; path: string; size: number };

/** Thrown where a call can't be made, with the words for it. */
export class Unsendable extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

/** Judges a request before it goes out. @throws {Unsendable} over an address or a header that can't be sent */
export function judge({ url, headers }: Outgoing): void {
  if (!URL.canParse(url) || !/^https?:/i.test(url))
    throw new Unsendable(problem("misconfigured", "The address of the call is no http or https address."));
  for (const [name, value] of Object.entries(headers)) checkHeader(name, value);
}

/** Headers by which HTTP steers the connection itself: undici sets them, or sends none. */
const steering = /^(?:connection|expect|keep-alive|transfer-encoding|upgrade)$/i;

/** @throws {Unsendable} */
function checkHeader(name: string, value: string): void {
  let why = steering.test(name) ? "it steers the connection itself" : undefined;
  try {
    http.validateHeaderName(name);
    http.validateHeaderValue(name, value);
  } catch {
    why = "HTTP allows one line of plain characters there";
  }
  if (why === undefined) return;
  throw new Unsendable(
    problem("misconfigured", `The header ${name} can't be sent: ${why}.`, {
      advice: "Put the header right where it is set: in the profile, in the credentials, or among the extra headers.",
    }),
  );
}

/** The length of a body with files in it, which are read only while it is sent. */
export function lengthOf(body: Outgoing["body"]): Record<string, string> {
  if (typeof body !== "object") return {};
  const length = body.reduce(
    (sum, part) => sum + (part.kind === "text" ? Buffer.byteLength(part.text) : Math.ceil(part.size / 3) * 4),
    0,
  );
  return { "content-length": String(length) };
}

/** A body as one text, files in it read. */
export async function bodyText(body: Outgoing["body"]): Promise<string | undefined> {
  if (typeof body !== "object") return body;
  const parts: Buffer[] = [];
  for await (const part of bytesOf(body)) parts.push(part);
  return Buffer.concat(parts).toString("utf8");
}

/** Bytes that are read at a time: in threes, which are four letters each. */
const readAtOnce = 3 * 16 * 1024;

export async function* bytesOf(parts: readonly BodyPart[]): AsyncGenerator<Buffer> {
  for (const part of parts) {
    if (part.kind === "text") {
      yield Buffer.from(part.text);
      continue;
    }
    let rest: Buffer = Buffer.alloc(0);
    for await (const bytes of createReadStream(part.path, { highWaterMark: readAtOnce }) as AsyncIterable<Buffer>) {
      const all = Buffer.concat([rest, bytes]);
      const whole = all.length - (all.length % 3);
      yield Buffer.from(all.subarray(0, whole).toString("base64"));
      rest = all.subarray(whole);
    }
    if (rest.length > 0) yield Buffer.from(rest.toString("base64"));
  }
}
