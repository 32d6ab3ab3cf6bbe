import { request as httpRequest } from "node:http";
import type { NumberedEvent } from "@/core/reply/events";
import { allEvents, eventsOf, expect, test, textIn, type World } from "../e2e/fixtures";

/** A caller who keeps the cookie that says who one is. */
class Caller {
  private cookie = "";

  constructor(
    private readonly world: World,
    private readonly slug: string,
  ) {}

  async call(
    path: string,
    init: Omit<RequestInit, "headers"> & { headers?: Record<string, string> } = {},
  ): Promise<Response> {
    const headers = { ...init.headers, ...(this.cookie ? { cookie: this.cookie } : {}) };
    const response = await fetch(`${this.world.address}/api/apps/${this.slug}/${path}`, { ...init, headers });
    this.cookie = response.headers.get("set-cookie")?.split(";")[0] ?? this.cookie;
    return response;
  }

  say(body: object | string, headers: Record<string, string> = {}): Promise<Response> {
    return this.call("replies", {
      method: "POST",
      headers,
      body: typeof body === "string" ? body : JSON.stringify(body),
    });
  }
}

/** The reply that events are of. */
function replyOf([head]: NumberedEvent[]): string {
  return head?.event === "reply" ? head.data.reply : "";
}

const stream = { accept: "text/event-stream" };

test.describe("asking for a reply", () => {
  test("as a stream gives the events of the vocabulary, with ids that count from 1", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Stream"));
    const response = await caller.say({ message: "I'm on the 9:40 with two bicycles" }, stream);
    expect(response.headers.get("content-type")).toContain("text/event-stream");
    expect(response.headers.get("cache-control")).toBe("no-store, no-transform");
    const events = await allEvents(response);
    expect(events.map(({ id }) => id)).toEqual(events.map((_, at) => at + 1));
    expect(events[0]).toMatchObject({
      event: "reply",
      data: { provider: "reedbed", model: "reed-swift", revision: expect.any(Number) },
    });
    expect(events.slice(-2)).toMatchObject([
      { event: "usage", data: { estimated: false, currency: "EUR" } },
      { event: "end", data: { reason: "complete" } },
    ]);
    expect(textIn(events)).toBe((await world.calls()).at(-1)?.said);
  });

  test("a message in pieces is a message", async ({ world }) => {
    const slug = await world.makeApp("Pieces");
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      body: JSON.stringify({
        message: [
          { kind: "text", text: "What is " },
          { kind: "text", text: "12 * 7?" },
        ],
      }),
    });
    expect(((await response.json()) as { text: string }).text).toContain("84");
  });

  test("as NDJSON gives the same, a line each", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Lines"));
    const lines = (await (await caller.say({ message: "Hello" }, { accept: "application/x-ndjson" })).text())
      .trim()
      .split("\n");
    const events = lines.map((line) => JSON.parse(line));
    expect(events[0]).toMatchObject({ id: 1, event: "reply" });
    expect(events.at(-1)).toMatchObject({ id: events.length, event: "end" });
  });

  test("without either gives one whole answer, with the tokens that the provider counted", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Whole"));
    const answer = (await (await caller.say({ message: "What is 12 * 7?" })).json()) as Record<string, unknown>;
    expect(answer).toMatchObject({
      text: expect.stringMatching(/\b84\b/),
      end: "complete",
      model: "reed-swift",
      usage: { estimated: false },
    });
    expect(Object.keys(answer)).toEqual([
      "form",
      "reply",
      "conversation",
      "message",
      "revision",
      "provider",
      "model",
      "text",
      "end",
      "usage",
      "next",
    ]);
  });

  test("with Prefer: respond-async answers 202 at once; the reply is read by its id, and ends with 204", async ({
    world,
  }) => {
    const caller = new Caller(world, await world.makeApp("Later"));
    await world.pace(60);
    const accepted = await caller.say({ message: "Tell me a story about the ferry" }, { prefer: "respond-async" });
    expect(accepted.status).toBe(202);
    const { reply } = (await accepted.json()) as { reply: string };
    const textSoFar = async () => ((await (await caller.call(`replies/${reply}`)).json()) as { text: string }).text;
    await expect.poll(textSoFar).not.toBe("");
    await caller.call(`replies/${reply}/stop`, { method: "POST" });
    const events = await allEvents(await caller.call(`replies/${reply}`, { headers: stream }));
    const standing = (await (await caller.call(`replies/${reply}`)).json()) as {
      state: string;
      text: string;
      cursor: number;
    };
    expect(standing).toMatchObject({ state: "stopped", text: textIn(events), cursor: events.length });
    const rest = await caller.call(`replies/${reply}`, {
      headers: { ...stream, "last-event-id": String(events.length) },
    });
    expect(rest.status).toBe(204);
    const tail = await allEvents(
      await caller.call(`replies/${reply}`, { headers: { ...stream, "last-event-id": "2" } }),
    );
    expect(tail).toEqual(events.slice(2));
  });

  test("goes on from the tip of a conversation, or branches after a reply", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Branches"));
    const first = (await (await caller.say({ message: "I'm Ivo" })).json()) as { conversation: string; reply: string };
    const next = (await (
      await caller.say({ message: "What is my name?", conversation: first.conversation })
    ).json()) as { text: string };
    expect(next.text).toContain("Ivo");
    const branch = await caller.say({
      message: "Where did we start?",
      conversation: first.conversation,
      after: first.reply,
    });
    expect(((await branch.json()) as { text: string }).text).toContain("I'm Ivo");
    expect((await world.calls()).at(-1)?.messages.map(({ role }) => role)).toEqual([
      "system",
      "user",
      "assistant",
      "user",
    ]);
  });

  test("fills the prompt's variables from the call, and says which has no value", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Variables", { prompt: "You stand at {{desk}}." }));
    const missing = await caller.say({ message: "Hello" });
    expect(missing.status).toBe(400);
    expect(((await missing.json()) as { detail: string }).detail).toContain("{{desk}}");
    await caller.say({ message: "Hello", variables: { desk: "Mill Quay" } });
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("You stand at Mill Quay.");
  });

  test("takes no value from a call for what the app or the clock fills, nor a longer one than there may be", async ({
    world,
  }) => {
    const content = { prompt: "You are {{role}} at {{desk}}, on {{today}}.", variables: { role: "a deckhand" } };
    const caller = new Caller(world, await world.makeApp("Fixed", content));
    for (const name of ["role", "today", "other"]) {
      const refused = await caller.say({ message: "Hello", variables: { desk: "Mill Quay", [name]: "the owner" } });
      expect([name, refused.status, await refused.json()]).toMatchObject([
        name,
        400,
        { detail: expect.stringContaining(`variables.${name}`), advice: "Calls may give desk." },
      ]);
    }
    const long = await caller.say({ message: "Hello", variables: { desk: "x".repeat(10_001) } });
    expect([long.status, await long.json()]).toMatchObject([
      400,
      { detail: expect.stringContaining("variables.desk") },
    ]);
    expect((await caller.say({ message: "Hello", variables: { desk: "Mill Quay" } })).status).toBe(200);
    expect((await world.calls()).at(-1)?.messages[0]?.content).toContain("You are a deckhand at Mill Quay");
  });
});

test.describe("going on from a reply", () => {
  test("that was cut gives a take that holds both parts, with nothing lost between them", async ({ world }) => {
    const slug = await world.makeApp("Cut", { settings: { maxOutput: 40 } });
    const caller = new Caller(world, slug);
    const cut = (await (await caller.say({ message: "Tell me a story about the ferry" })).json()) as {
      reply: string;
      text: string;
      end: string;
    };
    const whole = (await world.calls()).at(-1);
    expect(cut.end).toBe("length");
    const more = (await (await caller.say({ goOn: cut.reply })).json()) as { text: string; reply: string };
    expect(more.reply).not.toBe(cut.reply);
    expect(more.text.startsWith(cut.text)).toBe(true);
    expect(more.text.length).toBeGreaterThan(cut.text.length);
    expect((await world.calls()).at(-1)?.messages.at(-1)).toEqual({ role: "assistant", content: cut.text });
    expect(whole?.said).toBe(cut.text);
  });

  test("that is complete is refused", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Complete"));
    const { reply } = (await (await caller.say({ message: "Hello" })).json()) as { reply: string };
    const refused = await caller.say({ goOn: reply });
    expect([refused.status, await refused.json()]).toMatchObject([409, { kind: "conflict" }]);
  });
});

test.describe("stopping", () => {
  test("closes the provider's connection before it answers, keeps the text, and twice is once", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Stops"));
    await world.pace(40);
    const response = await caller.say({ message: "Tell me a long story about the ferry" }, stream);
    const events: NumberedEvent[] = [];
    let stopped: Promise<Response> | undefined;
    for await (const event of eventsOf(response)) {
      events.push(event);
      if (event.event === "text" && textIn(events).length > 20)
        stopped ??= caller.call(`replies/${replyOf(events)}/stop`, { method: "POST" });
    }
    expect(await (await stopped)?.json()).toMatchObject({ state: "stopped" });
    expect(events.at(-1)).toMatchObject({ event: "end", data: { reason: "stopped" } });
    const reply = replyOf(events);
    expect(await (await caller.call(`replies/${reply}/stop`, { method: "POST" })).json()).toEqual({
      reply,
      state: "stopped",
    });
    await expect.poll(async () => (await world.calls()).at(-1)?.left).toBe(true);
  });
});

test.describe("a call that does not fit", () => {
  const refusals: [name: string, body: string, status: number, says: RegExp][] = [
    ["no JSON", "{", 400, /not JSON/],
    ["nothing at all", "", 400, /empty/],
    ["an empty message", '{"message":"  "}', 400, /message/],
    ["an unknown field", '{"message":"a","colour":"red"}', 400, /`colour`/],
    ["neither message nor goOn", "{}", 400, /`again` nor `goOn`/],
    ["more takes than there may be", '{"again":"msg_1","count":11}', 400, /`count`/],
    ["an empty history", `{"messages":[]}`, 400, /messages/],
    ["a system message of its own", `{"messages":[{"role":"system","text":"a"}]}`, 400, /prompt goes first/],
  ];
  for (const [name, body, status, says] of refusals)
    test(`${name} is refused with what to do and a command that works`, async ({ world }) => {
      const response = await new Caller(world, await world.makeApp("Strict")).say(body);
      const problem = (await response.json()) as { detail: string; example: string; status: number };
      expect(response.headers.get("content-type")).toContain("application/problem+json");
      expect([response.status, problem.status]).toEqual([status, status]);
      expect(problem.detail).toMatch(says);
      expect(problem.example).toMatch(/^curl -N http:\/\/127\.0\.0\.1:\d+\/api\/apps\/[\w-]+\/replies /);
      expect(await world.calls().then((calls) => calls.at(-1)?.messages.at(-1)?.content)).not.toBe("a");
    });

  test("a wrong method gets 405 with Allow, and an example that works as it stands", async ({ world }) => {
    const slug = await world.makeApp("Methods");
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`);
    expect([response.status, response.headers.get("allow")]).toEqual([405, "POST, OPTIONS"]);
    const { example } = (await response.json()) as { example: string };
    const [, address = "", headers = "", body = ""] = /^curl -N (\S+) ((?:-H '[^']+' )+)-d '(.+)'$/.exec(example) ?? [];
    const sent = Object.fromEntries(
      [...headers.matchAll(/-H '([^:]+): ([^']+)'/g)].map(([, name, value]) => [name, value]),
    );
    expect((await allEvents(await fetch(address, { method: "POST", headers: sent, body }))).at(-1)?.event).toBe("end");
  });

  test("2 MiB get 413, whether their size is said before or not", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Large"));
    const body = JSON.stringify({ message: "x".repeat(2 * 1024 * 1024) });
    expect((await caller.say(body)).status).toBe(413);
    const chunks = new Blob([body]).stream();
    const streamed = await caller.call("replies", { method: "POST", body: chunks, duplex: "half" } as {
      method: string;
      body: ReadableStream;
    });
    expect([streamed.status, await streamed.json()]).toMatchObject([413, { kind: "too-large" }]);
  });

  test("more than the window is refused before anything is sent or stored", async ({ world }) => {
    const slug = await world.makeApp("Window");
    const caller = new Caller(world, slug);
    const before = (await world.calls()).length;
    const response = await caller.say({ message: "boat ".repeat(9000) });
    expect([response.status, await response.json()]).toMatchObject([422, { kind: "too-long" }]);
    expect((await world.calls()).length).toBe(before);
    const { conversations } = await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`);
    expect(conversations).toEqual([]);
  });

  test("another Host or Origin is refused on every route", async ({ world }) => {
    const statusFor = (path: string, headers: Record<string, string>) =>
      new Promise<number | undefined>((resolve, reject) => {
        httpRequest(world.address + path, { headers }, (response) => {
          response.resume();
          resolve(response.statusCode);
        })
          .on("error", reject)
          .end();
      });
    for (const path of ["/", "/apps", "/api/health", "/api/bench/apps", "/api/bench/stream", "/icon.svg"]) {
      expect(await statusFor(path, { host: "evil.example" })).toBe(403);
      expect(await statusFor(path, { origin: "http://evil.example" })).toBe(403);
    }
  });
});

test.describe("who calls", () => {
  test("the same key and body give one reply; another body is refused", async ({ world }) => {
    const slug = await world.makeApp("Once");
    const caller = new Caller(world, slug);
    const key = { "idempotency-key": "a3f0c9f2-1" };
    const before = (await world.calls()).length;
    const first = (await (await caller.say({ message: "Hello" }, key)).json()) as { reply: string };
    const second = (await (await caller.say({ message: "Hello" }, key)).json()) as { reply: string };
    expect(second).toEqual(first);
    expect(
      textIn(await allEvents(await caller.say({ message: "Hello" }, { ...key, ...stream, "last-event-id": "1" })))
        .length,
    ).toBeGreaterThan(0);
    expect((await world.calls()).length).toBe(before + 1);
    const other = await caller.say({ message: "Hello again" }, key);
    expect([other.status, await other.json()]).toMatchObject([422, { kind: "key-reused" }]);
  });

  test("two calls at once of one caller, under one key, get one reply", async ({ world }) => {
    const slug = await world.makeApp("Double");
    const ada = { "finch-visitor": "ada", "idempotency-key": "b7d1-click" };
    const say = () => new Caller(world, slug).say({ message: "Hello" }, ada).then((response) => response.json());
    const [one, two] = await Promise.all([say(), say()]);
    expect(one).toEqual(two);
  });

  test("a stranger who sends another's key and body gets a conversation of its own", async ({ world }) => {
    const slug = await world.makeApp("Overheard");
    const key = { "idempotency-key": "order-1" };
    const [first, stranger] = [new Caller(world, slug), new Caller(world, slug)];
    const said = (await (await first.say({ message: "I am puffin-7731" }, key)).json()) as { conversation: string };
    const response = await stranger.say({ message: "I am puffin-7731" }, key);
    const got = (await response.json()) as { conversation: string };
    expect(got.conversation).not.toBe(said.conversation);
    expect(response.headers.get("finch-visitor")).not.toBeNull();
    const { conversations } = (await (await stranger.call("conversations")).json()) as {
      conversations: { id: string }[];
    };
    expect(conversations.map(({ id }) => id)).toEqual([got.conversation]);
    // whom the first answer made known repeats the call, and gets the same reply
    expect(await (await first.say({ message: "I am puffin-7731" }, key)).json()).toMatchObject(said);
  });

  test("a second message while a reply arrives gets 409 with that reply's id", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Busy"));
    await world.pace(30);
    const accepted = await caller.say({ message: "Tell me a long story about the ferry" }, { prefer: "respond-async" });
    const { reply, conversation } = (await accepted.json()) as { reply: string; conversation: string };
    const busy = await caller.say({ message: "And?", conversation });
    expect([busy.status, await busy.json()]).toMatchObject([409, { kind: "busy", reply }]);
    await caller.call(`replies/${reply}/stop`, { method: "POST" });
    await world.pace("instant");
    expect((await caller.say({ message: "And?", conversation })).status).toBe(200);
  });

  test("nobody reads, stops, goes on with or deletes what is another's", async ({ world }) => {
    const slug = await world.makeApp("Private");
    const [one, other] = [new Caller(world, slug), new Caller(world, slug)];
    const { reply, conversation } = (await (await one.say({ message: "Hello" })).json()) as {
      reply: string;
      conversation: string;
    };
    await other.say({ message: "Hello" });
    const tries = [
      other.call(`replies/${reply}`),
      other.call(`replies/${reply}/stop`, { method: "POST" }),
      other.call(`conversations/${conversation}`),
      other.call(`conversations/${conversation}`, { method: "DELETE" }),
      other.say({ message: "And?", conversation }),
      other.say({ goOn: reply }),
    ];
    for (const response of await Promise.all(tries)) expect(response.status).toBe(404);
    expect((await one.call(`conversations/${conversation}`)).status).toBe(200);
  });

  test("one's own conversations are listed by page, read by page, and deleted", async ({ world }) => {
    const caller = new Caller(world, await world.makeApp("Pages"));
    const { conversation } = (await (await caller.say({ message: "Turn 1" })).json()) as { conversation: string };
    for (let turn = 2; turn <= 35; turn++) await caller.say({ message: `Turn ${turn}`, conversation });
    for (let more = 0; more < 21; more++) await caller.say({ message: `Other ${more}` });

    type List = { conversations: { id: string }[]; before: string | null };
    const first = (await (await caller.call("conversations")).json()) as List;
    const second = (await (await caller.call(`conversations?before=${first.before}`)).json()) as List;
    expect([first.conversations.length, second.conversations.length, second.before]).toEqual([20, 2, null]);
    expect(new Set([...first.conversations, ...second.conversations].map(({ id }) => id)).size).toBe(22);

    type Page = { messages: { pieces: { text: string }[]; role: string }[]; before: string | null };
    const end = (await (await caller.call(`conversations/${conversation}`)).json()) as Page;
    const start = (await (await caller.call(`conversations/${conversation}?before=${end.before}`)).json()) as Page;
    const said = [...start.messages, ...end.messages]
      .filter(({ role }) => role === "visitor")
      .map(({ pieces }) => pieces[0]?.text);
    expect([start.before, said]).toEqual([null, Array.from({ length: 35 }, (_, at) => `Turn ${at + 1}`)]);

    expect((await caller.call(`conversations/${conversation}`, { method: "DELETE" })).status).toBe(204);
    expect((await caller.call(`conversations/${conversation}`)).status).toBe(404);
  });
});
