import { createHmac } from "node:crypto";
import { once } from "node:events";
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";

/** What it is asked. */
interface Asked {
  voice: string;
  brief?: string;
  said: { who: string; line: string }[];
  craft?: { label: string }[];
  bounds: { longest: number };
}

/** The key that it takes. */
export const oddKey = "oyster-k-5521";

/**
 * An API of the tests' own that no shipped profile describes: a region in its path, a signature in a header, words of its
 * own for everything, each piece of text beside the same in capitals, and counts under letters.
 */
export class OddApi {
  private constructor(private readonly server: Server) {}

  static async start(): Promise<OddApi> {
    const server = createServer((request, response) => void answer(request, response));
    server.listen(0, "127.0.0.1");
    await once(server, "listening");
    return new OddApi(server);
  }

  get address(): string {
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  stop(): void {
    this.server.closeAllConnections();
    this.server.close();
  }
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const path = new URL(request.url ?? "/", "http://odd").pathname;
  let body = "";
  for await (const part of request) body += part;
  const refuse = (status: number, why: string, code: string) =>
    response.writeHead(status, { "content-type": "application/json" }).end(JSON.stringify({ oops: { why, code } }));
  const [, area] = /^\/areas\/([\w-]+)\/speak$/.exec(path) ?? [];
  if (!area) return void refuse(404, "There is no such area here.", "nowhere");
  if (request.headers["x-oyster-key"] !== oddKey) return void refuse(401, "This key opens nothing.", "locked");
  const seal = createHmac("sha256", "pebble")
    .update(path + body)
    .digest("hex");
  if (request.headers["x-oyster-sign"] !== seal) return void refuse(401, "The request is not signed.", "unsigned");
  const asked = JSON.parse(body) as Asked;
  response.writeHead(200, { "content-type": "text/event-stream" });
  const words = textFor(area, asked).split(/(?<= )/);
  let n = 0;
  const send = (event: object) => {
    n += 1;
    response.write(`data: ${JSON.stringify({ n, at: new Date().toISOString(), ...event })}\n\n`);
  };
  for (const word of words) {
    send({ v: { lit: word, loud: word.toUpperCase() } });
    await new Promise((resolve) => setTimeout(resolve, 15));
  }
  send({ v: { lit: "", loud: "" }, end: "moored", m: { r: body.length, w: words.length } });
  response.end();
}

/** It says what it was sent: where, by which prompt, and what was said by whom. */
function textFor(area: string, { brief, said }: Asked): string {
  const last = said.at(-1)?.line ?? "";
  const before = said.slice(0, -1).map(({ who, line }) => `${who} said ${line}`);
  return `Here is ${area}. You ask: ${last} Before that, ${before.join(", ") || "nobody spoke"}. I was told: ${brief ?? "nothing"}`;
}
