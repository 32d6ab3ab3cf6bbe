import type { IncomingMessage, ServerResponse } from "node:http";

/** Bytes of a request: of a conversation with pictures, which goes out whole at each turn. */
const longestBody = 64 * 1024 * 1024;

/** The body of a request as JSON; undefined when it is none. */
export async function readJson(request: IncomingMessage): Promise<unknown> {
  return jsonIn(await readText(request));
}

/** The body of a request; empty when it is too long. */
export async function readText(request: IncomingMessage): Promise<string> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of request) {
    size += part.length;
    if (size > longestBody) return "";
    parts.push(part);
  }
  return Buffer.concat(parts).toString("utf8");
}

/** A text as JSON; undefined when it is none. */
export function jsonIn(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** Answers with JSON. */
export function sendJson(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { "content-type": "application/json" });
  response.end(JSON.stringify(body));
}
