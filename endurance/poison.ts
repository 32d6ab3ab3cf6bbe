import { createServer, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { gzipSync } from "node:zlib";
import type { World } from "../e2e/world";
import { Caller, sings } from "./caller";
import type { Tally } from "./tally";

type Poison = (response: ServerResponse) => void;

const sse = { "content-type": "text/event-stream" };
const json = { "content-type": "application/json" };
const delta = (content: string, finish: string | null = null) =>
  `data: ${JSON.stringify({ choices: [{ delta: { content }, finish_reason: finish }] })}\n\n`;
const raw = (event: string) => `data: ${event}\n\n`;
const deep = (levels: number) => `${"[".repeat(levels)}${"]".repeat(levels)}`;
const end = raw("[DONE]");
const whole =
  (...parts: (string | Buffer)[]): Poison =>
  (response) => {
    response.writeHead(200, sse);
    for (const part of parts) response.write(part);
    response.end();
  };
const usage = (counts: string) => whole(delta("Aye.", "stop"), raw(`{"choices":[],"usage":${counts}}`), end);
const status =
  (code: number, headers: Record<string, string>, body: string | Buffer): Poison =>
  (response) =>
    void response.writeHead(code, headers).end(body);

/** Answers that a provider should never give, and the kinds that may come of each; a whole reply where it is `whole`. */
const poisons: [name: string, poison: Poison, kinds: string[]][] = [
  ["a count without end", usage('{"prompt_tokens":1e999,"completion_tokens":1e999}'), ["whole"]],
  ["a count of nine quadrillions", usage('{"prompt_tokens":9e15,"completion_tokens":9e15}'), ["whole"]],
  ["counts below nothing", usage('{"prompt_tokens":-5,"completion_tokens":-1.5}'), ["whole"]],
  ["counts in words", usage('{"prompt_tokens":"many","completion_tokens":{"a":[1]}}'), ["whole"]],
  ["counts nested 100,000 deep", usage(`{"prompt_tokens":${deep(100_000)},"completion_tokens":3}`), ["whole"]],
  ["a text nested 100,000 deep", whole(raw(`{"choices":[{"delta":{"content":${deep(100_000)}}}]}`), end), ["empty"]],
  [
    "an error nested 100,000 deep",
    status(400, json, `{"error":{"message":${deep(100_000)}}}`),
    ["misconfigured", "bad-reply"],
  ],
  [
    "an error in mid-stream nested 100,000 deep",
    whole(delta("Half"), raw(`{"error":{"message":${deep(100_000)}}}`)),
    ["reported", "bad-reply"],
  ],
  [
    "an error of a megabyte",
    status(500, json, JSON.stringify({ error: { message: "x".repeat(1_000_000) } })),
    ["overloaded"],
  ],
  ["a finish word without end", whole(delta("Aye.", "x".repeat(100_000)), end), ["bad-reply"]],
  ["an empty finish word, and no end", whole(delta("Half", ""), delta(" a", "")), ["broken-off"]],
  [
    "a name that objects have",
    whole(raw('{"__proto__":{"a":1},"choices":[{"delta":{"content":"Aye."},"finish_reason":"constructor"}]}'), end),
    ["bad-reply"],
  ],
  [
    "half a surrogate",
    whole(raw('{"choices":[{"delta":{"content":"a \\ud83d b"},"finish_reason":"stop"}]}'), end),
    ["whole"],
  ],
  ["a null character", whole(delta("a\u0000b", "stop"), end), ["whole"]],
  [
    "bytes that are no UTF-8",
    whole(Buffer.from([0x64, 0x61, 0x74, 0x61, 0x3a, 0x20, 0xff, 0xfe, 0x0a, 0x0a])),
    ["bad-reply"],
  ],
  ["an event of ten megabytes", whole(delta("x".repeat(10_000_000), "stop"), end), ["whole"]],
  ["text without end", (response) => endless(response, delta("x".repeat(100_000))), ["bad-reply"]],
  [
    "an event without end",
    (response) => endless(response, "x".repeat(1_000_000), 'data: {"choices":[{"delta":{"content":"'),
    ["bad-reply"],
  ],
  ["comments without end", (response) => endless(response, `: ${"x".repeat(1_000_000)}\n`), ["bad-reply"]],
  ["gzip that is none", status(200, { ...sse, "content-encoding": "gzip" }, "plain"), ["bad-reply"]],
  [
    "gzip that is cut",
    status(200, { ...sse, "content-encoding": "gzip" }, gzipSync(delta("Half")).subarray(0, 30)),
    ["broken-off"],
  ],
  [
    "gzip of a gigabyte",
    status(200, { ...sse, "content-encoding": "gzip" }, gzipSync(Buffer.alloc(300_000_000))),
    ["bad-reply"],
  ],
  ["an encoding that was not asked for", status(200, { ...sse, "content-encoding": "snow" }, "x"), ["bad-reply"]],
  ["a wait of a thousand years", status(429, { ...json, "retry-after": "31536000000" }, "{}"), ["rate-limited"]],
  ["a wait without end", status(503, { ...json, "retry-after": "1e999" }, "{}"), ["overloaded"]],
  ["a redirect to itself", status(307, { location: "/v1/chat/completions" }, ""), ["misconfigured"]],
  ["a page", status(200, { "content-type": "text/html" }, "<h1>Welcome</h1>"), ["bad-reply"]],
  ["nothing at all", status(200, sse, ""), ["bad-reply"]],
  ["a connection that is torn", (response) => void response.socket?.destroy(), ["unreachable", "broken-off"]],
  [
    "a tear in the middle of a character",
    (response) => {
      response.writeHead(200, sse);
      response.write(Buffer.from(delta("zwölf")).subarray(0, 42));
      setTimeout(() => response.socket?.destroy(), 20);
    },
    ["broken-off"],
  ],
];

function endless(response: ServerResponse, part: string, first = ""): void {
  response.writeHead(200, sse);
  response.write(first);
  const more = () => {
    while (!response.destroyed && response.write(part));
    if (!response.destroyed) response.once("drain", more);
  };
  more();
}

/** Poisoned answers, each followed by a canary that must answer. */
export async function runPoisons(world: World, tally: Tally): Promise<void> {
  let next: Poison = poisons[0]?.[1] as Poison;
  const server = createServer((request, response) => {
    response.on("error", () => response.destroy());
    request.resume().on("end", () => next(response));
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  const model = { name: "poisoned", window: 100_000, price: { input: 1, output: 1, currency: "EUR" } };
  const { id } = await world.bench<{ id: string }>("POST", "providers", {
    name: "Poisoner",
    address: `http://127.0.0.1:${port}`,
    profile: "chat-completions",
    credential: { kind: "none" },
    models: [model],
  });
  await world.bench("PATCH", `providers/${id}`, { retries: 0 });
  const canary = await world.makeApp("Canary of poisons");
  await world.pace("instant");
  try {
    const slug = await world.makeApp("Poisoned", { provider: id, model: model.name, settings: {} });
    for (const [name, poison, kinds] of poisons) {
      next = poison;
      const caller = new Caller(world, slug);
      const response = await caller.ask({ message: "What is 12 * 7?" });
      const answer = (await response.json()) as { kind?: string; end?: string; conversation?: string; reply?: string };
      const came = answer.kind ?? (answer.end ? "whole" : "nothing");
      tally.expects(kinds.includes(came), `${name}: ${came}, where ${kinds.join(" or ")} is expected`);
      // the conversation can be read, and the model answers the next call
      next = whole(delta("12 * 7 = 84", "stop"), end);
      const silence = (await sings(world, slug)) ?? (await sings(world, canary));
      tally.expects(silence === undefined, `after ${name}: ${silence}`);
      if (answer.reply) {
        const dispatches = await fetch(`${world.address}/api/bench/replies/${answer.reply}/dispatches`);
        tally.expects(dispatches.ok, `${name}: its dispatch can't be read, status ${dispatches.status}`);
      }
      tally.count("poisons");
    }
  } finally {
    server.closeAllConnections();
    server.close();
  }
}
