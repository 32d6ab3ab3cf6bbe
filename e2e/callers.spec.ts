import { request as httpRequest } from "node:http";
import Sqlite from "better-sqlite3";
import { SignJWT } from "jose";
import { accessSchema } from "@/core/serving/access";
import { allEvents, expect, noLimits, test, textIn, World } from "./fixtures";
import { sampleKeys } from "./world";

const sse = "text/event-stream";

interface Whole {
  reply: string;
  conversation: string;
  text: string;
  next: string;
  provider: string;
  model: string;
}

interface Opened {
  visitor: string;
  pass: string;
  expiresAt: number;
}

interface Refused {
  kind: string;
  detail: string;
  advice: string;
}

const free = { limits: noLimits };

/** What calls of one app are made with. */
function caller(world: World, slug: string, base = world.address) {
  const at = (path: string) => `${base}/api/apps/${slug}/${path}`;
  return {
    at,
    say: (body: object, headers: Record<string, string> = {}) =>
      fetch(at("replies"), { method: "POST", body: JSON.stringify(body), headers }),
    get: (path: string, headers: Record<string, string> = {}) => fetch(at(path), { headers }),
    refused: async (response: Response) => ({ status: response.status, ...((await response.json()) as Refused) }),
    token: async (kind: "server" | "public" | "site") => {
      const made = await world.bench<{ text: string; token: { id: string } }>("POST", `apps/${slug}/tokens`, {
        kind,
        name: "A front end",
      });
      return { id: made.token.id, text: made.text, bearer: { authorization: `Bearer ${made.text}` } };
    },
    called: () =>
      world
        .bench<{ calls: Record<string, unknown>[] }>("GET", `apps/${slug}/calls`)
        .then(({ calls }) => calls as { status: number; problem: Refused | null; reply: string | null }[]),
  };
}

test.describe("a caller", () => {
  test("that gives nothing but a name is remembered, without a cookie, and told how to go on", async ({ world }) => {
    const { say, get } = caller(world, await world.makeApp("By hand"));
    const ada = { "finch-visitor": "ada" };
    const first = await say({ message: "I'm on the 9:40 with two bicycles" }, ada);
    expect(first.headers.get("set-cookie")).toBeNull();
    const { conversation, next } = (await first.json()) as Whole;
    expect(next).toContain("-H 'finch-visitor: ada'");
    const second = (await (await say({ message: "How many bicycles do I have?", conversation }, ada)).json()) as Whole;
    expect(second.text).toMatch(/two|2/i);
    const ivo = await say({ message: "And I?", conversation }, { "finch-visitor": "ivo" });
    expect(ivo.status).toBe(404);
    const { conversations } = (await (await get("conversations", ada)).json()) as { conversations: unknown[] };
    expect(conversations).toHaveLength(1);
  });

  test("that gives no name is given one, which goes on as well as the cookie", async ({ world }) => {
    const { say } = caller(world, await world.makeApp("Nameless"));
    const first = await say({ message: "I'm Ivo" });
    const name = first.headers.get("finch-visitor") ?? "";
    expect(first.headers.get("set-cookie")).toContain("Path=/api/apps/nameless");
    const { conversation, next } = (await first.json()) as Whole;
    expect(next).toContain(name);
    const second = await say({ message: "What is my name?", conversation }, { "finch-visitor": name });
    expect(((await second.json()) as Whole).text).toContain("Ivo");
  });

  test("names its front end, by which its conversations are told apart", async ({ world }) => {
    const slug = await world.makeApp("Two desks");
    const { say, called, at } = caller(world, slug);
    for (const client of ["desk-7", "desk-8"]) await say({ message: "Hello" }, { "finch-client": client });
    const given = await fetch(at("badges"), { method: "POST", body: '{"of":"terminal"}' });
    const { badge } = (await given.json()) as { badge: string };
    await say({ message: "Hello" }, { "finch-badge": badge });
    expect((await say({ message: "Hello" }, { "finch-client": "terminal" })).status).toBe(400);
    const { conversations } = await world.bench<{ conversations: { origin: string; client: string | null }[] }>(
      "GET",
      `apps/${slug}/conversations`,
    );
    const told = conversations.map(({ origin, client }) => [origin, client]);
    expect(told).toEqual([
      ["terminal", null],
      ["http", "desk-8"],
      ["http", "desk-7"],
    ]);
    expect(await called()).toMatchObject([
      { status: 400, problem: { detail: expect.stringContaining("a name of ours") } },
      { origin: "terminal", status: 200, ended: { state: "complete", usage: { currency: "EUR" } } },
      { client: "desk-8", status: 200 },
      { client: "desk-7", status: 200 },
    ]);
  });

  test("forgets and is forgotten: all that it said is gone", async ({ world }) => {
    const { say, get, at } = caller(world, await world.makeApp("Forgets"));
    const ada = { "finch-visitor": "ada" };
    const { reply } = (await (await say({ message: "I'm Ada" }, ada)).json()) as Whole;
    expect((await fetch(at("visitors/me"), { method: "DELETE", headers: { "finch-visitor": "ivo" } })).status).toBe(
      204,
    );
    expect((await get(`replies/${reply}`, ada)).status).toBe(200);
    expect((await fetch(at("visitors/me"), { method: "DELETE", headers: ada })).status).toBe(204);
    expect((await get(`replies/${reply}`, ada)).status).toBe(404);
    expect(await (await get("conversations", ada)).json()).toMatchObject({ conversations: [] });
  });
});

test.describe("with tokens", () => {
  test("a server token names any visitor, a public one opens its own, and a revoked one is worth nothing", async ({
    world,
  }) => {
    const slug = await world.makeApp("Tokens", {}, { ...free, callers: "token" });
    const { say, get, at, token, refused } = caller(world, slug);
    expect(await refused(await say({ message: "Hello" }, { "finch-visitor": "ada" }))).toMatchObject({
      status: 401,
      kind: "unknown-caller",
    });
    const server = await token("server");
    const ada = { ...server.bearer, "finch-visitor": "ada" };
    const whole = (await (await say({ message: "I'm Ada" }, ada)).json()) as Whole;
    expect(whole.next).not.toContain(server.bearer.authorization);

    const page = await token("public");
    expect((await say({ message: "Hello" }, { ...page.bearer, "finch-visitor": "ada" })).status).toBe(401);
    const opened = await fetch(at("visitors"), { method: "POST", body: "{}", headers: page.bearer });
    expect(opened.status).toBe(201);
    const { pass } = (await opened.json()) as { pass: string };
    const visitor = { authorization: `Bearer ${pass}`, "finch-visitor": "ada" };
    expect((await say({ message: "Who am I?", conversation: whole.conversation }, visitor)).status).toBe(404);
    expect(await (await get("conversations", visitor)).json()).toMatchObject({ conversations: [] });
    expect((await say({ message: "Hello" }, visitor)).status).toBe(200);

    for (const { id } of [server, page]) await world.bench("DELETE", `apps/${slug}/tokens/${id}`);
    expect((await say({ message: "Hello" }, ada)).status).toBe(401);
    expect((await say({ message: "Hello" }, visitor)).status).toBe(401);
    const { tokens } = await world.bench<{ tokens: unknown[] }>("GET", `apps/${slug}/serving`);
    expect(tokens).toEqual([]);
  });

  test("a visitor of a public token goes on with a new pass, the old one over or not, and only under such a token", async ({
    world,
  }) => {
    const slug = await world.makeApp("Renewed", {}, { ...free, callers: "token" });
    const { say, get, at, token, refused } = caller(world, slug);
    const page = await token("public");
    const open = (body: object, headers = page.bearer) =>
      fetch(at("visitors"), { method: "POST", body: JSON.stringify(body), headers });
    const first = (await (await open({})).json()) as Opened;
    const by = ({ pass }: Opened) => ({ authorization: `Bearer ${pass}` });
    await say({ message: "I'm Ivo" }, by(first));
    // twelve hours later
    const other = new Sqlite(`${world.folder}/finch.sqlite`);
    other.prepare("UPDATE visitors SET expires_at = 1 WHERE id = ?").run(first.visitor);
    other.close();
    expect(await refused(await say({ message: "Hello" }, by(first)))).toMatchObject({
      status: 401,
      advice: expect.stringContaining("Renew it"),
    });
    const second = (await (await open({ pass: first.pass })).json()) as Opened;
    expect(second.visitor).toBe(first.visitor);
    expect(second.expiresAt).toBeGreaterThan(Date.now() + 11 * 3_600_000);
    const { conversations } = (await (await get("conversations", by(second))).json()) as { conversations: unknown[] };
    expect(conversations).toHaveLength(1);
    expect((await open({ pass: `${first.pass}x` })).status).toBe(401);
    expect((await open({ pass: first.pass }, (await token("server")).bearer)).status).toBe(401);
    await world.bench("DELETE", `apps/${slug}/tokens/${page.id}`);
    expect((await open({ pass: first.pass }, (await token("public")).bearer)).status).toBe(401);
  });

  test("a visitor whom a site signs for is the same everywhere, until the signature or the secret ends", async ({
    world,
  }) => {
    const slug = await world.makeApp("Signed", {}, { ...free, callers: "token" });
    const { say, get, token } = caller(world, slug);
    const [site, server] = [await token("site"), await token("server")];
    const signed = async (sub: string, lasts: number) => ({
      authorization: `Bearer ${await new SignJWT({ sub })
        .setProtectedHeader({ alg: "HS256" })
        .setExpirationTime(Math.floor(Date.now() / 1000) + lasts)
        .sign(new TextEncoder().encode(site.text))}`,
    });
    const laptop = await signed("ada", 600);
    const { conversation } = (await (await say({ message: "I'm Ada" }, laptop)).json()) as Whole;
    const phone = await signed("ada", 700);
    const whole = (await (await say({ message: "What is my name?", conversation }, phone)).json()) as Whole;
    expect(whole.text).toContain("Ada");
    const named = { ...server.bearer, "finch-visitor": "ada" };
    const { conversations } = (await (await get("conversations", named)).json()) as { conversations: unknown[] };
    expect(conversations).toHaveLength(1);
    expect((await get(`conversations/${conversation}`, await signed("ivo", 600))).status).toBe(404);
    expect((await say({ message: "Hello" }, await signed("ada", -600))).status).toBe(401);
    expect((await say({ message: "Hello" }, site.bearer)).status).toBe(401);
    await world.bench("DELETE", `apps/${slug}/tokens/${site.id}`);
    expect((await say({ message: "Hello" }, laptop)).status).toBe(401);
  });

  test("an app that is switched off answers nobody", async ({ world }) => {
    const { say, refused } = caller(world, await world.makeApp("Off", {}, { callers: "nobody", page: false }));
    expect(await refused(await say({ message: "Hello" }))).toMatchObject({ status: 403, kind: "forbidden" });
  });
});

test.describe("limits", () => {
  test("are told with the time to wait, listed, and hold one visitor without holding another", async ({ world }) => {
    const slug = await world.makeApp("Few", {}, { limits: { ...noLimits, visitor: 2, message: 20 } });
    const { say, called, refused } = caller(world, slug);
    const as = (name: string) => say({ message: "Hello" }, { "finch-visitor": name });
    expect([(await as("ada")).status, (await as("ada")).status]).toEqual([200, 200]);
    const third = await as("ada");
    expect(third.headers.get("ratelimit-policy")).toBe('"visitor";q=2;w=60');
    expect(third.headers.get("ratelimit")).toMatch(/^"visitor";r=0;t=\d+$/);
    expect(Number(third.headers.get("retry-after"))).toBeGreaterThan(0);
    expect(await refused(third)).toMatchObject({ status: 429, kind: "over-limit" });
    expect((await as("ivo")).status).toBe(200);
    expect(await refused(await say({ message: "x".repeat(21) }))).toMatchObject({ status: 422, kind: "too-long" });
    expect((await called()).map(({ status, problem }) => [status, problem?.kind])).toEqual([
      [422, "too-long"],
      [200, undefined],
      [429, "over-limit"],
      [200, undefined],
      [200, undefined],
    ]);
  });
});

test.describe("every answer to a call", () => {
  test("has an id that Serve's list and the log know, and says what is left", async () => {
    test.setTimeout(60_000);
    const world = await World.make();
    try {
      let logged = "";
      await world.start((line) => {
        logged += line;
      });
      await world.pace("instant");
      const slug = await world.makeApp("Counted", {}, { limits: { visitor: 5, address: null, app: 9 } });
      const { say, get, called } = caller(world, slug);
      const ada = { "finch-visitor": "ada" };
      const taken = await say({ message: "Hello" }, ada);
      const streamed = await say({ message: "Hello" }, { ...ada, accept: "text/event-stream" });
      await streamed.text();
      const refused = await say({ mesage: "Hello" }, ada);
      const ids = [refused, streamed, taken].map(({ headers }) => headers.get("finch-call"));
      expect((await called()).map((call) => (call as unknown as { id: string }).id)).toEqual(ids);
      for (const id of ids) await expect.poll(() => logged).toContain(`"call":"${id}"`);
      expect(taken.headers.get("ratelimit-policy")).toBe('"app";q=9;w=60, "visitor";q=5;w=60');
      expect(streamed.headers.get("ratelimit")).toMatch(/^"app";r=7;t=\d+, "visitor";r=3;t=\d+$/);
      // what asks for no reply counts for nothing
      expect((await get("conversations", ada)).headers.get("ratelimit")).toMatch(/^"app";r=7/);
    } finally {
      await world.stop();
    }
  });
});

test.describe("what callers are told beside the words", () => {
  test("is what Serve says: over the endpoints all of it at first, and in every form of an answer", async ({
    world,
  }) => {
    const slug = await world.makeApp("Told", { model: "reed-deep" });
    const { say, get, at } = caller(world, slug);
    const ada = { "finch-visitor": "ada" };
    const ask = { message: "What is 12 * 7?" };
    const open = (await (await say(ask, ada)).json()) as Record<string, unknown>;
    expect(open).toMatchObject({ provider: "reedbed", model: "reed-deep", usage: { price: expect.any(Number) } });
    const everywhere = async () => {
      const whole = (await (await say(ask, ada)).json()) as Whole;
      const stream = await (await say(ask, { ...ada, accept: sse })).text();
      const lines = await (await say(ask, { ...ada, accept: "application/x-ndjson" })).text();
      const later = (await (await say(ask, { ...ada, prefer: "respond-async" })).json()) as { events: string };
      const ticketed = await (await fetch(later.events, { headers: { accept: sse } })).text();
      const read = [
        "conversations",
        `conversations/${whole.conversation}`,
        `conversations/${whole.conversation}/reach`,
      ];
      const stored = await Promise.all(
        [...read, `replies/${whole.reply}`].map(async (path) => (await get(path, ada)).text()),
      );
      const common = await fetch(at("v1/chat/completions"), {
        method: "POST",
        headers: ada,
        body: JSON.stringify({
          messages: [{ role: "user", content: ask.message }],
          stream: true,
          stream_options: { include_usage: true },
        }),
      });
      return [JSON.stringify(whole), stream, lines, ticketed, ...stored, await common.text()];
    };
    const shows = (names: string[]) =>
      world.bench("PUT", `apps/${slug}/access`, { access: { limits: noLimits, shows: names } });
    await shows([]);
    for (const text of await everywhere()) {
      expect(text).not.toMatch(
        /[Rr]eedbed|reed-deep|"price"|"tokens"|"input"|_tokens|event: (thought|usage)|"thought"/,
      );
    }
    await shows(["counts"]);
    const counted = (await everywhere()).join("\n");
    expect(counted).toMatch(/"input"/);
    expect(counted).not.toMatch(/[Rr]eedbed|reed-deep|"price"|event: thought/);
  });

  test("is on the page what its look shows, and never which model answers", async ({ page, world }) => {
    const slug = await world.makeApp("Shown", { model: "reed-deep" });
    const told: string[] = [];
    await page.route(`**/api/apps/${slug}/**`, async (route) => {
      const response = await route.fetch();
      told.push(await response.text());
      await route.fulfill({ response });
    });
    await page.goto(`${world.address}/talk/${slug}`);
    await page.getByRole("textbox").fill("What is 12 * 7?");
    await expect(page.getByRole("button", { name: "Send" })).toBeEnabled();
    await page.keyboard.press("Enter");
    await expect(page.locator('.talk-row[data-role="app"][data-state="complete"]')).toContainText("84");
    await page.reload();
    await expect(page.locator('.talk-row[data-role="app"][data-state="complete"]')).toContainText("84");
    await expect.poll(() => told.join("\n")).toMatch(/"messages"/);
    expect(told.join("\n")).toContain("event: reply");
    expect(told.join("\n")).not.toMatch(/[Rr]eedbed|reed-deep|"price"|event: (thought|usage)|"thought"/);
  });
});

test.describe("another origin", () => {
  const origin = "http://localhost:5173";
  const preflight = { origin, "access-control-request-method": "POST" };

  test("may call once it is allowed, exactly as it is written, and is listed before that", async ({ world }) => {
    const slug = await world.makeApp("Origins");
    const { say, at, called, refused } = caller(world, slug);
    expect((await fetch(at("replies"), { method: "OPTIONS", headers: preflight })).status).toBe(403);
    const closed = await say({ message: "Hello" }, { origin });
    expect(closed.headers.get("access-control-allow-origin")).toBeNull();
    expect(await refused(closed)).toMatchObject({ status: 403, kind: "forbidden" });
    expect(await called()).toMatchObject([
      { webOrigin: origin, status: 403 },
      { webOrigin: origin, status: 403, method: "OPTIONS" },
    ]);

    await world.bench("PUT", `apps/${slug}/access`, { access: { ...accessSchema.parse({}), origins: [origin] } });
    const asked = await fetch(at("replies"), { method: "OPTIONS", headers: preflight });
    expect([asked.status, asked.headers.get("access-control-allow-origin")]).toEqual([204, origin]);
    expect(asked.headers.get("access-control-allow-headers")).toContain("idempotency-key");
    const toRate = { origin, "access-control-request-method": "PUT" };
    const rating = await fetch(at("replies/msg_1/rating"), { method: "OPTIONS", headers: toRate });
    expect(rating.headers.get("access-control-allow-methods")).toContain("PUT");
    const described = await fetch(at("openapi.json"), { headers: { origin } });
    expect(described.headers.get("access-control-allow-origin")).toBe(origin);
    const open = await say({ message: "Hello" }, { origin });
    expect([open.status, open.headers.get("access-control-allow-origin")]).toEqual([200, origin]);
    const wrong = await say({ message: "" }, { origin });
    expect([wrong.status, wrong.headers.get("access-control-allow-origin")]).toEqual([400, origin]);
    for (const other of ["null", "http://localhost:5174", `${origin}.evil.test`])
      expect((await say({ message: "Hello" }, { origin: other })).status).toBe(403);
    expect((await fetch(`${world.address}/api/bench/apps`, { headers: { origin } })).status).toBe(403);
  });
});

test.describe("what a caller may choose", () => {
  test("is a model and settings that the developer allows, and the preview", async ({ world }) => {
    const slug = await world.makeApp("Choices", { prompt: "You are the live one." });
    const { say, refused } = caller(world, slug);
    expect(await refused(await say({ message: "Hello", with: { model: "reed-deep" } }))).toMatchObject({
      status: 403,
      advice: "Choose one of reed-swift.",
    });
    const models = [{ provider: "reedbed", model: "reed-deep" }];
    await world.bench("PUT", `apps/${slug}/access`, { access: { ...free, models, settings: ["temperature"] } });
    const whole = (await (
      await say({ message: "Hello", with: { model: "reed-deep", settings: { temperature: 0 } } })
    ).json()) as Whole;
    expect(whole.model).toBe("reed-deep");
    // by the name that the answer shows, as well as by the one in an address
    for (const provider of [whole.provider, "reedbed"])
      expect((await say({ message: "Hello", with: { model: "reed-deep", provider } })).status).toBe(200);
    expect((await say({ message: "Hello", with: { settings: { maxOutput: 5 } } })).status).toBe(403);

    expect((await say({ message: "Hello", with: { preview: true } })).status).toBe(404);
    const app = await world.bench<{ draft: object }>("GET", `apps/${slug}`);
    const content = { ...app.draft, prompt: "You are the preview." };
    await world.bench("PUT", `apps/${slug}/preview`, { content });
    await say({ message: "Hello", with: { preview: true } });
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("You are the preview.");
    await say({ message: "Hello" });
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("You are the live one.");
  });
});

test.describe("what the prompt leaves to callers", () => {
  test("stands in the document, in examples and in what goes on, with the token that the app wants", async ({
    world,
  }) => {
    const content = { prompt: "You stand at {{desk}}, {{today}}.", samples: { desk: "Mill Quay" } };
    const slug = await world.makeApp("Left", content, { limits: noLimits, callers: "token" });
    const { say, at, token } = caller(world, slug);
    const { bearer } = await token("server");
    const document = (await (await fetch(at("openapi.json"))).json()) as {
      paths: Record<string, { post: { requestBody: { content: Record<string, { example: object }> } } }>;
    };
    const asking = document.paths[`/api/apps/${slug}/replies`]?.post.requestBody.content["application/json"];
    expect(asking?.example).toMatchObject({ variables: { desk: "Mill Quay" } });
    expect(JSON.stringify(document)).toContain('"required":["desk"]');
    const wrong = await say({ mesage: "Hello" }, bearer);
    expect(await wrong.json()).toMatchObject({
      example: expect.stringMatching(/-H 'authorization: Bearer YOUR_TOKEN'.*"variables":\{"desk":"Mill Quay"\}/),
    });
    const given = await say(
      { message: "Hello", variables: { desk: "Tansy Holm" } },
      { ...bearer, "finch-visitor": "ada" },
    );
    const { next } = (await given.json()) as Whole;
    expect(next).toContain('"variables":{"desk":"Tansy Holm"}');
    const common = await fetch(at("v1/chat/completions"), {
      method: "POST",
      headers: bearer,
      body: JSON.stringify({ messages: [{ role: "user", content: "Hello" }], variables: { desk: "Brindle" } }),
    });
    expect(common.status).toBe(200);
    expect((await world.calls()).at(-1)?.messages[0]?.content).toContain("You stand at Brindle");
  });
});

test.describe("a history that the caller holds", () => {
  const messages = [
    { role: "visitor", text: "I'm Ivo" },
    { role: "app", text: "Good day, Ivo." },
    { role: "visitor", text: "What is my name?" },
  ];

  test("is answered after the app's prompt, and kept only where that was asked for", async ({ world }) => {
    const slug = await world.makeApp("Held", { prompt: "Be brief." });
    const { say, get } = caller(world, slug);
    const ada = { "finch-visitor": "ada" };
    const whole = (await (await say({ messages }, ada)).json()) as Whole;
    expect(whole.text).toContain("Ivo");
    expect((await world.calls()).at(-1)?.messages.map(({ role }) => role)).toEqual([
      "system",
      "user",
      "assistant",
      "user",
    ]);
    const listed = async () =>
      ((await (await get("conversations", ada)).json()) as { conversations: unknown[] }).conversations.length;
    const seen = async () =>
      (await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`)).conversations.length;
    expect([await listed(), await seen()]).toEqual([0, 0]);
    expect(whole.next).toContain('"role":"app","text":');
    await say({ messages, store: true }, ada);
    expect([await listed(), await seen()]).toEqual([1, 1]);
  });
});

test.describe("a reader that can't send headers", () => {
  test("reads one reply by a ticket, and nothing else", async ({ world }) => {
    const { say, at } = caller(world, await world.makeApp("Tickets"));
    const ada = { "finch-visitor": "ada" };
    const later = { ...ada, prefer: "respond-async" };
    const [one, other] = await Promise.all(
      [1, 2].map(async () => (await (await say({ message: "Hello" }, later)).json()) as Whole & { events: string }),
    );
    if (!one || !other) throw new Error("no answers");
    const events = await allEvents(await fetch(one.events, { headers: { accept: "text/event-stream" } }));
    expect(textIn(events)).not.toBe("");
    const ticket = new URL(one.events).searchParams.get("ticket");
    expect((await fetch(at(`replies/${other.reply}?ticket=${ticket}`))).status).toBe(401);
    expect((await fetch(`${one.events}x`)).status).toBe(401);
    expect((await fetch(at(`conversations/${one.conversation}?ticket=${ticket}`))).status).toBe(404);
  });
});

test.describe("the common shape", () => {
  interface Completion {
    id: string;
    choices: { message: { content: string }; finish_reason: string }[];
    usage: { total_tokens: number };
  }

  /** Lines as they are written for any server of that shape. */
  async function chat(base: string, key: string, model: string, messages: object[]): Promise<Completion> {
    const response = await fetch(`${base}/v1/chat/completions`, {
      method: "POST",
      headers: { "content-type": "application/json", authorization: `Bearer ${key}` },
      body: JSON.stringify({ model, messages, temperature: 0.2, parallel_tool_calls: false }),
    });
    if (!response.ok) throw new Error(await response.text());
    return (await response.json()) as Completion;
  }

  test("is answered by the same lines as a provider's, and finds the conversation of a history", async ({ world }) => {
    const slug = await world.makeApp("Common", {}, { limits: noLimits, settings: ["temperature"] });
    const base = `${world.address}/api/apps/${slug}`;
    const messages: { role: string; content: string }[] = [{ role: "user", content: "I'm Ivo, with two bicycles" }];
    const straight = await chat(world.standIn, sampleKeys.REEDBED_KEY ?? "", "reed-swift", messages);
    const first = await chat(base, "any-key", slug, messages);
    expect(first).toMatchObject({ choices: [{ finish_reason: "stop" }], usage: { total_tokens: expect.any(Number) } });
    expect(Object.keys(first)).toEqual(expect.arrayContaining(Object.keys(straight)));
    messages.push({ role: "assistant", content: first.choices[0]?.message.content ?? "" });
    messages.push({ role: "user", content: "What is my name?" });
    const second = await chat(base, "any-key", slug, messages);
    expect(second.choices[0]?.message.content).toContain("Ivo");
    const { conversations } = await world.bench<{ conversations: { turnCount: number }[] }>(
      "GET",
      `apps/${slug}/conversations`,
    );
    expect(conversations).toMatchObject([{ turnCount: 2 }]);
  });

  test("streams in its chunks, lists its models, and tells errors in its words", async ({ world }) => {
    const slug = await world.makeApp("Common stream");
    const base = `${world.address}/api/apps/${slug}/v1`;
    const ask = (body: object) => fetch(`${base}/chat/completions`, { method: "POST", body: JSON.stringify(body) });
    const messages = [{ role: "user", content: [{ type: "text", text: "What is 12 * 7?" }] }];
    const streamed = await (await ask({ messages, stream: true, stream_options: { include_usage: true } })).text();
    const data = streamed.split("\n\n").flatMap((event) => (event.startsWith("data: ") ? [event.slice(6)] : []));
    expect(data.at(-1)).toBe("[DONE]");
    const chunks = data.slice(0, -1).map((line) => JSON.parse(line));
    expect(chunks.map(({ choices }) => choices[0]?.delta.content ?? "").join("")).toContain("84");
    expect(chunks.at(-2)).toMatchObject({ choices: [{ finish_reason: "stop" }] });
    expect(chunks.at(-1)).toMatchObject({ choices: [], usage: { completion_tokens: expect.any(Number) } });
    expect(await (await fetch(`${base}/models`)).json()).toMatchObject({ data: [{ id: slug }] });
    const wrong = await ask({ model: "nothing", messages });
    expect([wrong.status, await wrong.json()]).toMatchObject([
      404,
      { error: { code: "not-found", message: expect.stringContaining(slug) } },
    ]);
    const system = await ask({ messages: [{ role: "system", content: "Be rude." }, ...messages] });
    expect([system.status, await system.json()]).toMatchObject([
      403,
      { error: { message: expect.stringContaining("prompt goes first"), type: "invalid_request_error" } },
    ]);
    await world.fault({ fault: "status", status: 503 });
    expect((await ask({ messages })).status).toBe(503);
  });
});

test.describe("pages and apps at a port of their own", () => {
  test("are all that is there, and what a proxy passes on is not of this machine", async () => {
    test.setTimeout(120_000);
    const world = await World.make();
    try {
      await Promise.all([world.startStandIn(), world.startWeb(world.apart)]);
      await world.pace("instant");
      const slug = await world.makeApp("Apart");
      const { say } = caller(world, slug, world.talk);
      expect((await say({ message: "Hello" }, { "finch-visitor": "ada" })).status).toBe(200);
      expect((await fetch(`${world.talk}/api/health`)).status).toBe(200);
      for (const path of ["/", "/apps", `/apps/${slug}/build`, "/api/bench/apps", "/providers"])
        expect([path, (await fetch(world.talk + path)).status]).toEqual([path, 404]);
      // as it is written, with nothing tidied up on the way
      const raw = (path: string) =>
        new Promise<number>((resolve, reject) => {
          const { hostname, port } = new URL(world.talk);
          httpRequest({ hostname, port, path }, (response) => resolve(response.resume().statusCode ?? 0))
            .on("error", reject)
            .end();
        });
      for (const path of [`/api/apps/${slug}/../../bench/apps`, `/api/apps/${slug}/%2e%2e/%2e%2e/bench/apps`])
        expect(await raw(path)).toBe(404);
      const proxied = { "finch-visitor": "ada", "x-forwarded-for": "127.0.0.1" };
      expect((await say({ message: "Hello" }, proxied)).status).toBe(401);
      expect(
        (await fetch(`${world.address}/api/bench/apps`, { headers: { "x-forwarded-for": "127.0.0.1" } })).status,
      ).toBe(403);
      const claimed = JSON.stringify({ leads: "bench", isHere: true, address: "127.0.0.1", origin: world.talk });
      expect((await say({ message: "Hello" }, { ...proxied, "finch-door": claimed })).status).toBe(401);
    } finally {
      await world.stop();
    }
  });
});
