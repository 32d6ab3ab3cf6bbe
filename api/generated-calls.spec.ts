import { request as httpRequest, type IncomingHttpHeaders } from "node:http";
import fc from "fast-check";
import { commonProblems, type Call as Declared } from "@/contract/call";
import { calls } from "@/contract/calls";
import { type ProblemKind, statusOf } from "@/core/problem/problem";
import { errorsAt } from "@/server/http/problem-response";
import { expect, test } from "../e2e/fixtures";

const count = 3_000;
const atOnce = 8;
/** Bytes of an answer that are looked at; a stream is left after them. */
const enough = 200_000;

interface Call {
  method: string;
  path: string;
  headers: Record<string, string>;
  body?: string;
}

interface Answer {
  status: number;
  headers: IncomingHttpHeaders;
  text: string;
}

/** Every call of the contract. */
const declared: Declared[] = Object.values(calls).flatMap((group) => Object.values(group));

/** Whether a kind of problem is one that a call is declared to meet. */
function isDeclared(call: Declared | undefined, kind: ProblemKind): boolean {
  return [...commonProblems, ...(call?.problems ?? ["not-found" as const])].includes(kind);
}

/** Whether the percent signs of a path escape something. */
function isEscaped(path: string): boolean {
  try {
    decodeURIComponent(path.split("?")[0] ?? "");
    return true;
  } catch {
    return false;
  }
}

/** The kind of problem that an answer tells of, in the shape that a call has for its errors, or that a path has. */
function kindIn({ status, headers, text }: Answer, path: string, call: Declared | undefined): ProblemKind | undefined {
  const { type, schema } = call?.errors ?? errorsAt(path);
  const document = schema.safeParse(text === "" ? undefined : JSON.parse(text));
  if (!document.success || headers["content-type"] !== type) return undefined;
  const told = document.data as { status?: number; kind?: ProblemKind; error?: { code: ProblemKind } };
  const kind = told.kind ?? told.error?.code;
  return kind && statusOf(kind) === status ? kind : undefined;
}

function send(port: number, { method, path, headers, body }: Call): Promise<Answer | undefined> {
  return new Promise((resolve) => {
    // said in any case: Node leaves it out for methods that seldom have a body
    const length = body === undefined ? {} : { "content-length": Buffer.byteLength(body) };
    const options = { host: "127.0.0.1", port, method, path, headers: { ...headers, ...length }, timeout: 20_000 };
    const call = httpRequest(options, (response) => {
      let text = "";
      const done = () => {
        call.destroy();
        resolve({ status: response.statusCode ?? 0, headers: response.headers, text });
      };
      // a stream goes on for as long as it likes; its head is what counts
      if (String(response.headers["content-type"]).startsWith("text/event-stream")) return done();
      response.on("data", (bytes) => {
        text += bytes;
        if (text.length > enough) done();
      });
      response.on("end", done);
      response.on("error", done);
    });
    call.on("timeout", () => call.destroy());
    call.on("error", () => resolve(undefined));
    call.end(body);
  });
}

const odd = fc.constantFrom(
  "",
  " ",
  "nope",
  "..",
  "%00",
  "%E0%A4",
  "%ff",
  "%2e%2e%2f",
  "a%2fb",
  "__proto__",
  "constructor",
  "x".repeat(300),
  "msg_0",
  "💧",
  "'; --",
  "0",
  "-1",
  "null",
);
const names = [
  "message",
  "conversation",
  "after",
  "variables",
  "goOn",
  "again",
  "messages",
  "with",
  "name",
  "provider",
  "model",
  "content",
  "address",
  "profile",
  "credential",
  "headers",
  "extras",
  "models",
  "limits",
  "retries",
  "proxy",
  "caFile",
  "url",
  "method",
  "body",
  "user",
  "stream",
  "arrivals",
  "olderThanDays",
  "fault",
  "ms",
  "calls",
  "secrets",
];
const values = fc.oneof(
  odd,
  fc.jsonValue({ maxDepth: 3 }),
  fc.constantFrom<unknown>(
    1e308,
    -1,
    0.5,
    [],
    {},
    true,
    null,
    "http://127.0.0.1:9",
    "http://[",
    "chat-completions",
    { kind: "none" },
    { kind: "smoke" },
    { kind: "key", secret: { value: "a\nb" } },
    { "a b": "c" },
    [[1, 2]],
    { connect: 1 },
    "Hello",
    { kind: "text", text: "" },
  ),
);
const bodies = fc.oneof(
  fc.constant(undefined),
  fc.dictionary(fc.constantFrom(...names), values, { maxKeys: 5 }).map((body) => JSON.stringify(body)),
  fc.constantFrom(
    "",
    "{",
    "[]",
    "null",
    "7",
    '"text"',
    `${"[".repeat(5_000)}${"]".repeat(5_000)}`,
    `{"message":"${"x".repeat(2_000)}"}`,
    '{"message":"Hello"}',
  ),
  fc.string(),
);
const headers = fc.dictionary(
  fc.constantFrom(
    "accept",
    "cookie",
    "last-event-id",
    "idempotency-key",
    "prefer",
    "content-type",
    "origin",
    "if-none-match",
    "accept-encoding",
  ),
  fc.constantFrom(
    "text/event-stream",
    "application/x-ndjson",
    "*/*",
    "finch_visitor=%zz",
    "finch_visitor=vis_1.x",
    "finch_theme=%",
    "0",
    "-1",
    "999999999999",
    "NaN",
    "respond-async",
    "null",
    "http://elsewhere.test",
    "k".repeat(300),
    "gzip",
  ),
  { maxKeys: 3 },
);
const methods = fc.constantFrom(
  "GET",
  "GET",
  "POST",
  "POST",
  "PUT",
  "PATCH",
  "DELETE",
  "HEAD",
  "OPTIONS",
  "TRACE",
  "PROPFIND",
);

test("three thousand generated calls over all routes get no 500, and every refusal is a problem document", async ({
  world,
}) => {
  test.setTimeout(600_000);
  const pages = ["/", "/apps", "/providers", "/apps/{slug}/build", "/apps/{slug}/history", "/nothing"];
  const paths = [...new Set(declared.map(({ path }) => path)), "/api", "/api/nothing", ...pages];
  expect(paths.length).toBeGreaterThan(30);
  const port = Number(new URL(world.address).port);
  const known = async () => {
    const slug = await world.makeApp("Generated");
    const { conversation, reply } = await world.bench<{ conversation: string; reply: string }>(
      "POST",
      `apps/${slug}/replies`,
      {
        message: "Hello",
      },
    );
    return { slug, ids: [conversation, reply, await world.wire("Saltpan")] };
  };
  let { slug, ids } = await known();
  const sampled = fc.sample(
    fc.record({
      method: methods,
      path: fc.constantFrom(...paths),
      part: fc.option(odd, { freq: 2 }),
      id: fc.nat(2),
      query: fc.constantFrom("", "", "?before=", "?before=1-x", "?before=%zz", "?a=b&a=c", `?${"x".repeat(500)}`),
      headers,
      body: bodies,
    }),
    { numRuns: count, seed: 17 },
  );
  const kinds = new Map<string, number>();
  const wrong: string[] = [];
  let answered = 0;
  const one = async (at: number) => {
    const { method, path, part, id, query, headers, body } = sampled[at] as (typeof sampled)[number];
    const filled = path
      .replace("{slug}", part ?? slug)
      .replace("{id}", part ?? ids[id] ?? "")
      .replace("{call}", part ?? "call_1");
    const call = {
      method,
      path: encodeURI(filled).replace(/%25/g, "%") + query,
      headers,
      ...(body === undefined ? {} : { body }),
    };
    const answer = await send(port, call);
    const what = `${method} ${call.path.slice(0, 120)} ${JSON.stringify(headers)} ${body?.slice(0, 120)}`;
    if (!answer) {
      wrong.push(`no answer: ${what}`);
      return;
    }
    answered += 1;
    if (answer.status === 500) wrong.push(`500: ${what}`);
    const isPage = !filled.startsWith("/api");
    if (answer.status < 400 || isPage || method === "HEAD") return;
    // ".." in a path leads to another place, and an escape that is none to no place at all
    const reached =
      filled.includes("..") || !isEscaped(call.path)
        ? undefined
        : declared.find((each) => each.path === path && each.method === method);
    const kind = kindIn(answer, new URL(call.path, world.address).pathname, reached);
    if (!kind) wrong.push(`${answer.status}, no problem document: ${what} ${answer.text.slice(0, 100)}`);
    else if (!isDeclared(reached, kind)) wrong.push(`${kind}, not declared: ${what}`);
    else kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
  };
  for (let at = 0; at < count; at += atOnce) {
    await Promise.all(Array.from({ length: Math.min(atOnce, count - at) }, (_, each) => one(at + each)));
    // what the calls deleted is made anew
    if (at % 200 === 0) ({ slug, ids } = await known());
  }
  expect(wrong).toEqual([]);
  expect(answered).toBe(count);
  expect(Object.fromEntries(kinds)).toMatchObject({
    "bad-request": expect.any(Number),
    "not-found": expect.any(Number),
    "wrong-method": expect.any(Number),
    forbidden: expect.any(Number),
  });
  expect(await (await fetch(`${world.address}/api/health`)).json()).toMatchObject({ ok: true });
});
