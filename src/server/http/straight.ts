import type { IncomingMessage, ServerResponse } from "node:http";
import { refusedAt } from "../entrance/origin";
import { errorsAt, problemResponse } from "./problem-response";

/**
 * Answers calls straight from Node's server with what answers them in a route, past the framework: that takes some
 * milliseconds for a call, and hands each part of a stream through two more of its own.
 */
export type Answers = Record<string, ((request: Request) => Promise<Response>) | undefined>;

/** Methods whose calls have no body that means anything. */
const bodiless = new Set(["GET", "HEAD"]);

/**
 * Answers one call.
 * @param answers by method
 * @param door what the server process says of where it came in
 */
export async function answerStraight(
  answers: Answers,
  incoming: IncomingMessage,
  outgoing: ServerResponse,
  door: [name: string, value: string],
): Promise<void> {
  const gone = new AbortController();
  outgoing.once("close", () => gone.abort());
  const request = requestOf(incoming, door, gone.signal);
  const { pathname } = new URL(request.url);
  const refused = refusedAt(pathname, request.headers);
  const response = refused
    ? problemResponse(refused, {}, errorsAt(pathname))
    : await answers[request.method]?.(request);
  if (!response) throw new Error(`${request.method} is answered by nothing.`);
  await send(response, outgoing);
  // what is left of a body that nobody wanted is let go by, so that the connection can be used again
  if (!incoming.complete) incoming.resume();
}

/** A call as the standard has it (https://fetch.spec.whatwg.org/#request-class). */
function requestOf(incoming: IncomingMessage, [name, value]: [string, string], signal: AbortSignal): Request {
  const { method = "GET", rawHeaders, url = "/" } = incoming;
  const headers = new Headers();
  for (let at = 0; at + 1 < rawHeaders.length; at += 2) headers.append(rawHeaders[at] ?? "", rawHeaders[at + 1] ?? "");
  headers.set(name, value);
  const body = bodiless.has(method) ? {} : { body: bodyOf(incoming), duplex: "half" };
  // which host was asked for stands in its header; an address of ours is what can't be misread
  return new Request(`http://localhost${url}`, { method, headers, signal, ...body } as RequestInit);
}

/** The body of a call, of which nothing is asked for before somebody reads it. */
function bodyOf(incoming: IncomingMessage): ReadableStream<Uint8Array> {
  let parts: AsyncIterator<Uint8Array> | undefined;
  const source: UnderlyingDefaultSource<Uint8Array> = {
    async pull(controller) {
      // left in the middle, the connection is still good for the answer
      parts ??= incoming.iterator({ destroyOnReturn: false }) as AsyncIterator<Uint8Array>;
      const { value, done } = await parts.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
    async cancel() {
      await parts?.return?.();
    },
  };
  return new ReadableStream(source, { highWaterMark: 0 });
}

/** Sends an answer, each part as it comes and no faster than it is read. One that breaks off is cut, and not ended. */
async function send(response: Response, outgoing: ServerResponse): Promise<void> {
  const { status, headers, body } = response;
  headers.set("x-content-type-options", "nosniff");
  outgoing.writeHead(status, Object.fromEntries([...headers, ...cookiesIn(headers)]));
  if (!body) {
    outgoing.end();
    return;
  }
  outgoing.flushHeaders();
  const reader = body.getReader();
  let isOver = false;
  outgoing.once("close", () => {
    if (!isOver) void reader.cancel();
  });
  try {
    for (let part = await reader.read(); !part.done; part = await reader.read()) {
      if (outgoing.destroyed) return;
      if (!outgoing.write(part.value)) await drained(outgoing);
    }
    isOver = true;
    outgoing.end();
  } catch (error) {
    isOver = true;
    outgoing.destroy(error as Error);
  }
}

/** Cookies, each of which is a header of its own. */
function cookiesIn(headers: Headers): [string, string[]][] {
  const cookies = headers.getSetCookie();
  return cookies.length === 0 ? [] : [["set-cookie", cookies]];
}

/** Resolves once there is room again, or nobody reads any more. */
function drained(outgoing: ServerResponse): Promise<void> {
  return new Promise((resolve) => {
    const done = () => {
      outgoing.off("drain", done);
      outgoing.off("close", done);
      resolve();
    };
    outgoing.once("drain", done);
    outgoing.once("close", done);
  });
}
