import Sqlite from "better-sqlite3";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { z } from "zod";
import { call, json, jsonBody, nothing } from "@/contract/call";
import { type Problem, problem } from "@/core/problem/problem";
import { type Told, toldAll } from "@/core/reply/told";
import { refuse } from "../ground/refusal";
import type { Home } from "../home";
import { addTurn, plainContent, plainFacts, talk } from "../test/conversation";
import { testFolder } from "../test/folder";
import { problemResponse } from "./problem-response";
import { Answered, type Handles, serve } from "./serve";
import { benchStream, ndjson, replyStream, sse, together } from "./streams";

const asking = (method: string, path: string, body?: string, headers: Record<string, string> = {}) =>
  new Request(`http://localhost${path}`, { method, body, headers: { host: "localhost", ...headers } });

/** Two calls at one address, another below it, and what answers them. */
const boats = {
  read: call({
    method: "GET",
    path: "/api/boats/{slug}",
    by: "anyone",
    does: "Reads a boat.",
    query: z.object({ before: z.string().max(3).optional() }),
    answers: { 200: json(z.object({ slug: z.string(), before: z.string().optional() })) },
  }),
  name: call({
    method: "POST",
    path: "/api/boats/{slug}",
    by: "anyone",
    does: "Names a boat.",
    body: jsonBody(z.strictObject({ name: z.string() })),
    answers: { 201: json(z.object({ name: z.string() })), 202: nothing },
    example: { body: { name: "Tern" } },
  }),
  sink: call({ method: "DELETE", path: "/api/boats/all", by: "anyone", does: "Sinks all.", answers: { 204: nothing } }),
};

describe("a route", () => {
  let { home, remove } = testFolder();
  remove();
  beforeEach(() => {
    ({ home, remove } = testFolder());
  });
  afterEach(() => remove());

  const usual: Handles<typeof boats, Home> = {
    read: (_home, { slug, before }) => ({ slug, before, secret: "not declared" }),
    name: (_home, { body, slug }) => (slug === "late" ? new Answered(202, undefined) : body),
    sink: () => {},
  };
  const routeOf = (handles: Partial<Handles<typeof boats, Home>> = {}) =>
    serve(() => home, boats, { ...usual, ...handles });

  it("answers each call with what is declared, and with nothing else", async () => {
    const { GET, HEAD, POST, DELETE } = routeOf();
    expect(await (await GET(asking("GET", "/api/boats/gr%C3%BCn?before=abc"))).json()).toEqual({
      slug: "grün",
      before: "abc",
    });
    expect((await HEAD(asking("HEAD", "/api/boats/a"))).status).toBe(200);
    const made = await POST(asking("POST", "/api/boats/a", '{"name":"Tern"}'));
    expect([made.status, await made.json()]).toEqual([201, { name: "Tern" }]);
    expect((await POST(asking("POST", "/api/boats/late", '{"name":"Tern"}'))).status).toBe(202);
    expect((await DELETE(asking("DELETE", "/api/boats/all"))).status).toBe(204);
  });

  it("answers any other method with 405, Allow, and a command that works", async () => {
    const { PUT, OPTIONS } = routeOf();
    const response = await PUT(asking("PUT", "/api/boats/a"));
    expect([response.status, response.headers.get("allow")]).toEqual([405, "GET, HEAD, POST, OPTIONS"]);
    expect(await response.json()).toMatchObject({
      kind: "wrong-method",
      example: `curl http://localhost/api/boats/a -H 'content-type: application/json' -d '{"name":"Tern"}'`,
    });
    expect((await OPTIONS(asking("OPTIONS", "/api/boats/a"))).headers.get("allow")).toBe("GET, HEAD, POST, OPTIONS");
  });

  it.each(["/api/boats", "/api/boats/a/b", "/api/boats/%FF"])("answers %s with 404", async (path) => {
    const response = await routeOf().GET(asking("GET", path));
    expect([response.status, (await response.json()).kind]).toEqual([404, "not-found"]);
  });

  it("makes a problem document of a refusal", async () => {
    const { GET } = routeOf({ read: () => refuse("busy", "Reply r1 is still arriving.", { reply: "r1" }) });
    const response = await GET(asking("GET", "/api/boats/a"));
    expect([response.status, response.headers.get("content-type")]).toEqual([409, "application/problem+json"]);
    expect(await response.json()).toMatchObject({ kind: "busy", reply: "r1" });
  });

  it("writes errors in the shape that a call has for them", async () => {
    const errors = { type: "application/json", schema: z.any(), write: ({ kind }: Problem) => ({ oops: kind }) };
    const foreign = { ...boats, read: { ...boats.read, errors } };
    const { GET } = serve(() => home, foreign, { ...usual, read: () => refuse("busy", "Busy.") });
    const response = await GET(asking("GET", "/api/boats/a"));
    expect([response.status, response.headers.get("content-type")]).toEqual([409, "application/json"]);
    expect(await response.json()).toEqual({ oops: "busy" });
  });

  it.each([
    ["{", "bad-request", /not JSON/],
    ["", "bad-request", /empty/],
    ['{"name":1}', "bad-request", /`name`/],
    [`${"[".repeat(5_000)}1${"]".repeat(5_000)}`, "bad-request", /levels deep/],
    [`${'{"name":'.repeat(5_000)}1${"}".repeat(5_000)}`, "bad-request", /levels deep/],
  ])("refuses the body %.20s", async (body, kind, detail) => {
    const problem = await (await routeOf().POST(asking("POST", "/api/boats/a", body))).json();
    expect(problem).toMatchObject({
      kind,
      detail: expect.stringMatching(detail),
      example: expect.stringContaining("curl"),
    });
  });

  it("reads a body up to its limit, and no byte further", async () => {
    const { largest } = boats.name.body;
    const around = '{"name":""}'.length;
    const sized = (size: number) =>
      routeOf().POST(asking("POST", "/api/boats/a", `{"name":"${"ä".repeat((size - around) / 2)}"}`));
    expect((await sized(largest - 1)).status).toBe(201);
    expect((await sized(largest + 1)).status).toBe(413);
  });

  it("answers HEAD like GET, without a body and without a reader left behind", async () => {
    let isLeft = false;
    const body = () =>
      new ReadableStream({
        cancel: () => {
          isLeft = true;
        },
      });
    const { HEAD } = routeOf({
      read: () => new Response(body(), { headers: { "content-type": "text/event-stream" } }),
    });
    const response = await HEAD(asking("HEAD", "/api/boats/a"));
    expect([response.headers.get("content-type"), response.body, isLeft]).toEqual(["text/event-stream", null, true]);
  });

  it("says in words that the data folder can't be written", async () => {
    const { GET } = routeOf({
      read: () => {
        throw new Sqlite.SqliteError("database or disk is full", "SQLITE_FULL");
      },
    });
    const response = await GET(asking("GET", "/api/boats/a"));
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
});

describe("streams", () => {
  let { home, remove } = testFolder();
  remove();
  let reply = "";
  let conversation = "";
  beforeEach(() => {
    ({ home, remove } = testFolder());
    const app = home.apps.make("A", plainContent, 1);
    conversation = talk(home, app.id, 0);
    reply = addTurn(home, conversation, "Hello").id;
    home.hub.begin({ reply, conversation, halt: async () => {}, fail: () => {} });
    home.hub.publish(reply, { event: "text", data: { text: "Aye.\n" } });
  });
  afterEach(() => remove());
  const end = () => home.hub.publish(reply, { event: "end", data: { reason: "complete" } });

  it("of server-sent events hold what was and what comes, and end with the reply", async () => {
    const response = replyStream(home, reply, 0, sse, { told: toldAll });
    end();
    expect(await response.text()).toBe(
      'id: 1\nevent: text\ndata: {"text":"Aye.\\n"}\n\nid: 2\nevent: end\ndata: {"reason":"complete"}\n\n',
    );
    expect(response.headers.get("cache-control")).toBe("no-store, no-transform");
  });

  it("of NDJSON hold a line for each event, after the one that is named", async () => {
    end();
    const text = await replyStream(home, reply, 1, ndjson, { told: toldAll }).text();
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

describe("several streams as one", () => {
  const utf8 = new TextEncoder();
  /** A stream that gives its parts one by one, and then ends or breaks off. */
  const giving = (parts: string[], fails = false) => {
    const left: string[] = [];
    const body = new ReadableStream<Uint8Array>({
      async pull(controller) {
        await Promise.resolve();
        const part = parts.shift();
        if (part !== undefined) controller.enqueue(utf8.encode(part));
        else if (fails) controller.error(new Error("It broke off."));
        else controller.close();
      },
      cancel: (reason) => void left.push(String(reason)),
    });
    return { response: new Response(body), left };
  };

  it("give each part in the order of its own stream, and the last word once", async () => {
    const answer = together(
      [giving(["a1 ", "a2 "]).response, giving(["b1 ", "b2 ", "b3 "]).response],
      () => "end",
      () => {},
    );
    const said = (await answer.text()).split(" ");
    expect(said.filter((part) => part.startsWith("a"))).toEqual(["a1", "a2"]);
    expect(said.filter((part) => part.startsWith("b"))).toEqual(["b1", "b2", "b3"]);
    expect(said.at(-1)).toBe("end");
  });

  it("break off where one does, whenever that is heard of, and let go of the others", async () => {
    const endless = giving(Array.from({ length: 1_000 }, () => "b "));
    const answer = together(
      [giving(["a "], true).response, endless.response],
      () => "end",
      () => {},
    );
    await expect(answer.text()).rejects.toThrow("It broke off.");
    expect(endless.left).toEqual(["Error: It broke off."]);
  });

  it("tell that their reader went away, and let go of all", async () => {
    const [one, other] = [giving(["a "]), giving(["b "])];
    let isLeft = false;
    const answer = together(
      [one.response, other.response],
      () => "end",
      () => {
        isLeft = true;
      },
    );
    await answer.body?.cancel("enough");
    expect([isLeft, one.left, other.left]).toEqual([true, ["enough"], ["enough"]]);
  });
});

describe("a reader", () => {
  let { home, remove } = testFolder();
  remove();
  const replyWith = (count: number, size: number) => {
    const app = home.apps.make("A", plainContent, 1);
    const conversation = talk(home, app.id, 0);
    const { id } = addTurn(home, conversation, "Hello");
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
    const reader = replyStream(home, id, 0, ndjson, { told: toldAll }).body?.getReader();
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
    const reader = replyStream(home, id, 0, sse, { told: toldAll }).body?.getReader();
    await reader?.read();
    home.hub.publish(id, { event: "end", data: { reason: "complete" } });
    home.messages.finishReply({ id, state: "complete", pieces: [], reported: null, facts: plainFacts });
    home.conversations.leave(conversation, 1);
    await home.removal.start();
    const rest = async () => {
      for (let part = await reader?.read(); part && !part.done; part = await reader?.read());
    };
    await expect(rest()).rejects.toThrow(/broken off/);
  });

  it("that is told nothing but words gets those alone, however much of the rest stands between", async () => {
    const { id } = replyWith(0, 0);
    const nothing: Told = { thoughts: false, counts: false, price: false, model: false, tools: false };
    const usage = { input: 1, output: 1, estimated: false, price: 0, currency: "EUR" };
    for (let at = 0; at < 100; at++) {
      home.hub.publish(id, { event: "thought", data: { text: "Hm." } });
      home.hub.publish(id, { event: "usage", data: usage });
    }
    home.hub.publish(id, { event: "text", data: { text: "Aye." } });
    const reader = replyStream(home, id, 0, ndjson, { told: nothing }).body?.getReader();
    const first = await reader?.read();
    expect(new TextDecoder().decode(first?.value)).toBe('{"id":201,"event":"text","data":{"text":"Aye."}}\n');
    home.hub.publish(id, { event: "thought", data: { text: "Hm." } });
    home.hub.publish(id, { event: "end", data: { reason: "complete" } });
    expect(new TextDecoder().decode((await reader?.read())?.value)).toContain('"id":203');
    expect((await reader?.read())?.done).toBe(true);
  });

  it("that missed more of all replies than it can be given is told so, and gets what comes", async () => {
    const { id } = replyWith(0, 0);
    for (let at = 1; at <= 2_500; at++) home.events.append({ reply: id, id: at, event: "text", data: '{"text":"x"}' });
    home.events.dropBefore(2_500, 2_500);
    const reader = benchStream(home, 0).body?.getReader();
    await reader?.read();
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

  it("of all replies that stalls past what is kept is told what it missed, and every event beside that comes once", async () => {
    const { id } = replyWith(0, 0);
    const reader = benchStream(home, 0).body?.getReader();
    const say = (count: number) => {
      for (let at = 0; at < count; at++) home.hub.publish(id, { event: "attempt", data: attempt });
      home.events.dropBefore(home.events.lastPosition(), count);
    };
    const because = problem("unreachable", "x".repeat(400));
    const attempt = { attempt: 2, provider: "P", model: "m", after: 1, because };
    say(20);
    let text = "";
    const read = async (until: RegExp) => {
      while (!until.test(text)) text += new TextDecoder().decode((await reader?.read())?.value);
    };
    await read(/^id: 20$/m);
    // more than waits for a reader, and more than is kept
    say(4_500);
    await read(/^id: 4520$/m);
    const told = [...text.matchAll(/^id: (\d+)\n(event: behind)?/gm)].map(([, at, behind]) => [Number(at), behind]);
    let last = 0;
    for (const [at, behind] of told as [number, string | undefined][]) {
      if (!behind) expect(at).toBe(last + 1);
      last = at;
    }
    expect(told.filter(([, behind]) => behind)).toHaveLength(1);
    await reader?.cancel();
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
    const text = await replyStream(home, id, 0, sse, { told: toldAll }).text();
    expect(text).toContain("The provider could not be reached.");
    expect(text).not.toContain("10.0.0.7");
  });
});
