import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { z } from "zod";
import { problem } from "@/core/problem/problem";
import { refuse } from "../refusal";
import { testFolder } from "../test-folder";
import { visitorCookie, visitorOf } from "./caller";
import { problemResponse } from "./problem-response";
import { bodyOf, bodyText, largestBody, route } from "./route";
import { benchStream, ndjson, replyStream, sse } from "./streams";

const params = { params: Promise.resolve({ slug: "quay-desk" }) };
const asking = (method: string, body?: string, headers: Record<string, string> = {}) =>
  new Request("http://localhost/api", { method, body, headers });

describe("a route", () => {
  const { GET, HEAD, POST, PUT, OPTIONS } = route<{ slug: string }>(
    {
      GET: (_request, { slug }) => new Response(slug),
      POST: async (request) => Response.json(await bodyOf(request, z.strictObject({ name: z.string() }))),
    },
    (_request, { slug }) => `curl ${slug}`,
  );

  it("answers the methods that it has, with the parts of its address", async () => {
    expect(await (await GET(asking("GET"), params)).text()).toBe("quay-desk");
    expect((await HEAD(asking("HEAD"), params)).status).toBe(200);
    expect(await (await POST(asking("POST", '{"name":"a"}'), params)).json()).toEqual({ name: "a" });
  });

  it("answers any other with 405, Allow, and a command that works", async () => {
    const response = await PUT(asking("PUT"), params);
    expect([response.status, response.headers.get("allow")]).toEqual([405, "GET, HEAD, POST, OPTIONS"]);
    expect(await response.json()).toMatchObject({ kind: "wrong-method", example: "curl quay-desk" });
    expect((await OPTIONS(asking("OPTIONS"), params)).headers.get("allow")).toBe("GET, HEAD, POST, OPTIONS");
  });

  it("makes a problem document of a refusal", async () => {
    const { GET } = route({ GET: () => refuse("busy", "Reply r1 is still arriving.", { reply: "r1" }) });
    const response = await GET(asking("GET"), { params: Promise.resolve({}) });
    expect([response.status, response.headers.get("content-type")]).toEqual([409, "application/problem+json"]);
    expect(await response.json()).toMatchObject({ kind: "busy", reply: "r1" });
  });

  it.each([
    ["{", "bad-request", /not JSON/],
    ["", "bad-request", /empty/],
    ['{"name":1}', "bad-request", /`name`/],
  ])("refuses the body %j", async (body, kind, detail) => {
    const problem = await (await POST(asking("POST", body), params)).json();
    expect(problem).toMatchObject({ kind, detail: expect.stringMatching(detail), example: "curl quay-desk" });
  });

  it.each([
    ["[", "]"],
    ['{"name":', "}"],
  ])("refuses a body nested 5,000 deep in %s", async (open, close) => {
    const body = `${open.repeat(5_000)}1${close.repeat(5_000)}`;
    const response = await POST(asking("POST", body), params);
    expect(response.status).toBe(400);
    expect(await response.json()).toMatchObject({
      kind: "bad-request",
      detail: expect.stringContaining("levels deep"),
    });
  });

  it("answers HEAD like GET, without a body and without a reader left behind", async () => {
    let isLeft = false;
    const { HEAD } = route({
      GET: () =>
        new Response(
          new ReadableStream({
            cancel: () => {
              isLeft = true;
            },
          }),
          { headers: { "content-type": "text/event-stream" } },
        ),
    });
    const response = await HEAD(asking("HEAD"), { params: Promise.resolve({}) });
    expect([response.headers.get("content-type"), response.body, isLeft]).toEqual(["text/event-stream", null, true]);
  });

  it("says in words that the data folder can't be written", async () => {
    const { GET } = route({
      GET: () => {
        throw new Sqlite.SqliteError("database or disk is full", "SQLITE_FULL");
      },
    });
    process.env.FINCH_DATA = mkdtempSync(join(tmpdir(), "finch-test-"));
    const response = await GET(asking("GET"), { params: Promise.resolve({}) });
    expect(response.status).toBe(507);
    expect(await response.json()).toMatchObject({
      kind: "no-storage",
      detail: expect.stringContaining("the disk is full"),
    });
  });

  it("gives a wait in whole seconds", () => {
    const headers = problemResponse(problem("rate-limited", "Slow down.", { retryAfter: 1.2 })).headers;
    expect(headers.get("retry-after")).toBe("2");
  });

  it("reads a body up to its limit, and no byte further", async () => {
    expect(await bodyText(asking("POST", "ä".repeat(largestBody / 2)))).toHaveLength(largestBody / 2);
    await expect(bodyText(asking("POST", "x".repeat(largestBody + 1)))).rejects.toThrow(/more than/);
  });
});

describe("streams", () => {
  let { home, remove } = testFolder();
  remove();
  let reply = "";
  let conversation = "";
  beforeEach(() => {
    ({ home, remove } = testFolder());
    const app = home.apps.make(
      "A",
      { prompt: "", variables: {}, provider: "p", model: "m", settings: {}, memory: { kind: "everything" } },
      1,
    );
    conversation = home.conversations.create({ app: app.id, visitor: null, opening: "", now: 1 }).id;
    const said = home.conversations.addVisitorMessage({
      conversation,
      parent: undefined,
      pieces: [],
      tokens: 0,
      now: 1,
    });
    reply = home.conversations.addReply({
      conversation,
      parent: said,
      continues: null,
      facts: { revision: 1, provider: "p", model: "m" },
      now: 1,
    }).id;
    home.hub.begin({ reply, conversation, halt: async () => {}, fail: () => {} });
    home.hub.publish(reply, { event: "text", data: { text: "Aye.\n" } });
  });
  afterEach(() => remove());
  const end = () => home.hub.publish(reply, { event: "end", data: { reason: "complete" } });

  it("of server-sent events hold what was and what comes, and end with the reply", async () => {
    const response = replyStream(home, reply, 0, sse);
    end();
    expect(await response.text()).toBe(
      'id: 1\nevent: text\ndata: {"text":"Aye.\\n"}\n\nid: 2\nevent: end\ndata: {"reason":"complete"}\n\n',
    );
    expect(response.headers.get("cache-control")).toBe("no-store, no-transform");
  });

  it("of NDJSON hold a line for each event, after the one that is named", async () => {
    end();
    const text = await replyStream(home, reply, 1, ndjson).text();
    expect(text).toBe('{"id":2,"event":"end","data":{"reason":"complete"}}\n');
  });

  it("of the bench go on after a position, and name the reply and its conversation", async () => {
    const reader = benchStream(home, 0).body?.getReader();
    end();
    let text = "";
    while (!text.includes('"end"')) text += new TextDecoder().decode((await reader?.read())?.value);
    await reader?.cancel();
    const [first, second] = text
      .split("\n\n")
      .slice(1, 3)
      .map((each) => JSON.parse(each.split("data: ")[1] ?? ""));
    expect(first).toEqual({ reply, conversation, event: { id: 1, event: "text", data: { text: "Aye.\n" } } });
    expect(second.event).toMatchObject({ id: 2, event: "end" });
  });
});

describe("a reader", () => {
  let { home, remove } = testFolder();
  remove();
  const replyWith = (count: number, size: number) => {
    const app = home.apps.make(
      "A",
      { prompt: "", variables: {}, provider: "p", model: "m", settings: {}, memory: { kind: "everything" } },
      1,
    );
    const conversation = home.conversations.create({ app: app.id, visitor: null, opening: "", now: 1 }).id;
    const said = home.conversations.addVisitorMessage({
      conversation,
      parent: undefined,
      pieces: [],
      tokens: 0,
      now: 1,
    });
    const facts = { revision: 1, provider: "p", model: "m" };
    const { id } = home.conversations.addReply({ conversation, parent: said, continues: null, facts, now: 1 });
    home.hub.begin({ reply: id, conversation, halt: async () => {}, fail: () => {} });
    const more = () => {
      for (let at = 0; at < count; at++) {
        home.hub.publish(id, { event: "thought", data: { text: "x".repeat(size) } });
        home.hub.publish(id, { event: "text", data: { text: "x".repeat(size) } });
      }
    };
    return { id, conversation, more };
  };
  beforeEach(() => {
    ({ home, remove } = testFolder());
  });
  afterEach(() => remove());

  it("that is slower than the events come loses none of them, and little waits for it", async () => {
    const { id, more } = replyWith(60, 50_000);
    const reader = replyStream(home, id, 0, ndjson).body?.getReader();
    const first = reader?.read();
    more();
    home.hub.publish(id, { event: "end", data: { reason: "complete" } });
    let text = "";
    for (let part = await first; part && !part.done; part = await reader?.read())
      text += new TextDecoder().decode(part.value);
    const lines = text
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    expect(lines.map(({ id }) => id)).toEqual(lines.map((_, at) => at + 1));
    expect(lines.at(-1)).toMatchObject({ event: "end" });
    expect(text.length).toBeGreaterThan(6_000_000);
  });

  it("of a reply that is deleted meanwhile is cut off, and not told that all is well", async () => {
    const { id, conversation, more } = replyWith(60, 50_000);
    more();
    const reader = replyStream(home, id, 0, sse).body?.getReader();
    await reader?.read();
    home.hub.publish(id, { event: "end", data: { reason: "complete" } });
    const facts = { revision: 1, provider: "p", model: "m" };
    home.conversations.finishReply({ id, state: "complete", text: "", tokens: 0, facts });
    home.conversations.leave(conversation, 1);
    await home.removal.start();
    const rest = async () => {
      for (let part = await reader?.read(); part && !part.done; part = await reader?.read());
    };
    await expect(rest()).rejects.toThrow(/broken off/);
  });

  it("that missed more of all replies than it can be given is told so, and gets what comes", async () => {
    const { id } = replyWith(0, 0);
    for (let at = 1; at <= 2_500; at++) home.events.add(id, at, "text", '{"text":"x"}');
    const reader = benchStream(home, 0).body?.getReader();
    const first = new TextDecoder().decode((await reader?.read())?.value);
    expect(first).toBe("id: 2500\nevent: behind\ndata: {}\n\n");
    const near = benchStream(home, 2_490).body?.getReader();
    const [opened, events] = [await near?.read(), await near?.read()].map((part) =>
      new TextDecoder().decode(part?.value),
    );
    expect(opened).toBe(": open\n\n");
    expect(events?.match(/^id: /gm)).toHaveLength(10);
    await reader?.cancel();
    await near?.cancel();
  });

  it("gets a last word when the server is stopped", async () => {
    const reader = benchStream(home, null).body?.getReader();
    await reader?.read();
    home.hub.sendAway();
    expect(new TextDecoder().decode((await reader?.read())?.value)).toContain("being stopped");
    expect((await reader?.read())?.done).toBe(true);
  });

  it("that is no developer is told of what failed inside in general words only", async () => {
    const { id } = replyWith(0, 0);
    const because = problem("unreachable", "http://10.0.0.7:99 could not be reached: nothing listens there.");
    home.hub.publish(
      id,
      { event: "attempt", data: { attempt: 2, provider: "P", model: "m", after: 1, because } },
      { event: "problem", data: because },
    );
    const text = await replyStream(home, id, 0, sse).text();
    expect(text).toContain("The provider could not be reached.");
    expect(text).not.toContain("10.0.0.7");
  });
});

describe("who calls", () => {
  it("is told by a cookie that was signed here, and by no other", () => {
    const { home, remove } = testFolder();
    const visitor = home.visitors.add(1);
    const cookie = visitorCookie(home, visitor)["set-cookie"]?.split(";")[0] ?? "";
    const of = (cookie: string) => visitorOf(home, asking("GET", undefined, { cookie }));
    expect(of(`a=b; ${cookie}`)).toBe(visitor);
    expect(of(`finch_visitor=${visitor}.forged`)).toBeUndefined();
    expect(of("finch_visitor=%zz")).toBeUndefined();
    expect(of("")).toBeUndefined();
    remove();
  });
});
