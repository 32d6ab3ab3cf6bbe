import type { Call } from "@/contract/call";
import { calls } from "@/contract/calls";
import { png } from "@/server/test/picture";
import { eventsOf, expect, noLimits, test, World } from "./fixtures";

/** Every call of the contract. */
const all: Call[] = Object.values(calls).flatMap((group) => Object.values(group) as Call[]);

/** A word that only one visitor has said. */
const secret = "puffin-7731";

/** What a call is handed that takes pictures. */
const picture = new Uint8Array(png(4, 3));

/** A way in which somebody calls who is not the one whose things they are. */
interface Guise {
  name: string;
  base: string;
  headers: Record<string, string>;
  /** Whether it meets calls of the bench as well: on this machine, from its own pages, that one is open. */
  meets: (call: Call) => boolean;
  /** What it may be answered with. */
  statuses: (call: Call, hasId: boolean) => number[];
}

const isOfBench = ({ by }: Call) => by === "bench";

test("nothing of another's is read, stopped or deleted by any call, whoever makes it and from wherever", async () => {
  test.setTimeout(240_000);
  const world = await World.make();
  try {
    await Promise.all([world.startStandIn(), world.startWeb(world.apart)]);
    await world.pace(8);
    const documents = { from: ["calls"], addresses: "none" };
    const slug = await world.makeApp("Strangers", { settings: { maxOutput: 2_000 } }, { limits: noLimits, documents });
    const { text } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, {
      kind: "public",
      name: "Page",
    });
    const endpoints = `${world.address}/api/apps/${slug}`;
    const ada = { "finch-visitor": "ada" };

    const streamed = await fetch(`${endpoints}/replies`, {
      method: "POST",
      headers: { ...ada, accept: "text/event-stream" },
      body: JSON.stringify({ message: `Tell me a long story about ${secret}` }),
    });
    let [reply, conversation] = ["", ""];
    for await (const event of eventsOf(streamed)) {
      if (event.event === "reply") ({ reply, conversation } = event.data);
      if (event.event === "text") break;
    }
    const handedIn = await fetch(`${endpoints}/files`, { method: "POST", headers: ada, body: picture });
    const { file } = (await handedIn.json()) as { file: string };
    const papers = await fetch(`${endpoints}/documents?name=papers.md`, {
      method: "POST",
      headers: ada,
      body: `# Papers\n\nThey are of ${secret}.`,
    });
    const { document } = (await papers.json()) as { document: string };
    // that one goes on slowly; what is asked from here on does not
    await world.pace("instant");
    const opened = await fetch(`${endpoints}/visitors`, {
      method: "POST",
      headers: { authorization: `Bearer ${text}` },
      body: "{}",
    });
    const { pass } = (await opened.json()) as { pass: string };

    const ours = (call: Call, hasId: boolean) =>
      call.by === "anyone" ? [200] : hasId ? [404] : [200, 201, 202, 204, 401, 404];
    const guises: Guise[] = [
      {
        name: "another visitor on this machine",
        base: world.address,
        headers: { "finch-visitor": "mallory" },
        meets: (call) => !isOfBench(call),
        statuses: ours,
      },
      {
        name: "one with no name",
        base: world.address,
        headers: {},
        meets: (call) => !isOfBench(call),
        statuses: ours,
      },
      {
        name: "one with a public token, naming another",
        base: world.talk,
        headers: { ...ada, authorization: `Bearer ${text}` },
        meets: () => true,
        statuses: (call, hasId) => (isOfBench(call) ? [404] : ours(call, hasId)),
      },
      {
        name: "a visitor of a public token, naming another",
        base: world.talk,
        headers: { ...ada, authorization: `Bearer ${pass}` },
        meets: () => true,
        statuses: (call, hasId) => (isOfBench(call) ? [404] : ours(call, hasId)),
      },
      {
        name: "a page of another origin",
        base: world.address,
        headers: { ...ada, origin: "http://elsewhere.test" },
        meets: () => true,
        statuses: (call) => (call.by === "anyone" && call.path.startsWith("/api/apps/") ? [200] : [403]),
      },
      {
        name: "a page without an origin",
        base: world.address,
        headers: { ...ada, origin: "null" },
        meets: () => true,
        statuses: (call) => (call.by === "anyone" && call.path.startsWith("/api/apps/") ? [200] : [403]),
      },
      {
        name: "somebody behind a proxy that nobody named",
        base: world.address,
        headers: { ...ada, "x-forwarded-for": "127.0.0.1", forwarded: "for=127.0.0.1;host=127.0.0.1" },
        meets: () => true,
        statuses: (call) => (isOfBench(call) ? [403] : call.by === "anyone" ? [200, 403] : [401]),
      },
      {
        name: "the port of pages and apps, asked for the bench",
        base: world.talk,
        headers: ada,
        meets: isOfBench,
        statuses: () => [404],
      },
    ];

    const wrong: string[] = [];
    let made = 0;
    for (const guise of guises)
      for (const call of all.filter(guise.meets)) {
        const named = { "/replies/": reply, "/files/": file, "/documents/": document };
        const id = Object.entries(named).find(([part]) => call.path.includes(part))?.[1] ?? conversation;
        const handsIn = call.method === "POST" && call.path.endsWith("/documents");
        const hasId = call.path.includes("{id}");
        const path = call.path.replace("{slug}", slug).replace("{id}", id).replace("{call}", "call_1");
        const response = await fetch(`${guise.base}${path}${handsIn ? "?name=mine.md" : ""}`, {
          method: call.method,
          headers: guise.headers,
          body: handsIn
            ? "# Mine"
            : call.takes
              ? picture
              : call.body
                ? JSON.stringify(call.example?.body ?? {})
                : undefined,
          signal: AbortSignal.timeout(20_000),
        });
        const what = `${guise.name}: ${call.method} ${path} → ${response.status}`;
        const body = await response.text();
        made += 1;
        const malformed = response.status === 400 && call.body !== undefined && call.example === undefined;
        // a badge of the terminal says who calls, and lets in nobody
        const isBadge = call.path.endsWith("/badges") && [201, 401, 403].includes(response.status);
        // nobody may name an address here
        const isClosed = call.path.endsWith("/documents/addresses") && response.status === 403;
        if (!guise.statuses(call, hasId).includes(response.status) && !malformed && !isBadge && !isClosed)
          wrong.push(`${what} ${body.slice(0, 200)}`);
        if (body.includes(secret)) wrong.push(`${what} tells what another said`);
      }
    expect(wrong).toEqual([]);
    expect(made).toBeGreaterThan(150);

    // guessed ids lead nowhere, whatever they look like
    for (const guess of ["msg_0", reply.slice(0, -1), `${reply}x`, "con_nothing"]) {
      const response = await fetch(`${endpoints}/replies/${guess}`, { headers: ada });
      expect([guess, response.status]).toEqual([guess, 404]);
    }
    const standing = await (await fetch(`${endpoints}/replies/${reply}`, { headers: ada })).json();
    expect(standing).toMatchObject({ reply, conversation, state: "arriving" });
    const own = await (await fetch(`${endpoints}/conversations/${conversation}`, { headers: ada })).text();
    expect(own).toContain(secret);
    await fetch(`${endpoints}/replies/${reply}/stop`, { method: "POST", headers: ada });
  } finally {
    await world.stop();
  }
});

test("a header that says who calls opens nothing where a token is wanted, whatever it names, at both ports", async () => {
  test.setTimeout(240_000);
  const world = await World.make();
  try {
    await Promise.all([world.startStandIn(), world.startWeb(world.apart)]);
    await world.pace("instant");
    const made = (name: string, callers: string) => world.makeApp(name, {}, { limits: noLimits, callers });
    const [token, nobody, open] = [
      await made("Wants tokens", "token"),
      await made("Wants nobody", "nobody"),
      await made("Open", "machine"),
    ];
    const of = async (slug: string, path: string, headers: Record<string, string>, body: object) =>
      await fetch(`${world.address}/api/apps/${slug}/${path}`, { method: "POST", headers, body: JSON.stringify(body) });
    const terminal = ((await (await of(open, "badges", {}, { of: "terminal" })).json()) as { badge: string }).badge;
    const stranger = await of(open, "replies", {}, { message: "Hello" });
    const cookie = stranger.headers.get("set-cookie")?.split(";")[0] ?? "";
    const page = async (slug: string) =>
      /"badge":"(badge page [^"]+)"/.exec(
        (await (await fetch(`${world.address}/talk/${slug}`)).text()).replaceAll("\\", ""),
      )?.[1] ?? "";
    const badge = await page(open);
    expect(badge).not.toBe("");
    const claims: Record<string, string>[] = [
      {},
      ...["page", "frame", "terminal", "PAGE"].map((client) => ({ "finch-client": client })),
      { "finch-client": "desk-7", "finch-visitor": "ada" },
      { cookie, "finch-client": "page" },
      { cookie },
      // of another app, made up, or of what gives no right to call
      ...[badge, "badge page app_1 9999999999999.forged", terminal].map((each) => ({ "finch-badge": each })),
      { "finch-badge": `${badge}x`, cookie },
      ...[
        "any-key",
        "finch_server_x",
        "finch_public_x",
        "finch_site_x",
        "finch_pass_x",
        "eyJhbGciOiJub25lIn0.eyJzdWIiOiJhZGEifQ.x",
      ].map((bearer) => ({ authorization: `Bearer ${bearer}` })),
      { "x-forwarded-for": "127.0.0.1", "x-forwarded-host": "127.0.0.1", forwarded: "for=127.0.0.1" },
      { "finch-door": JSON.stringify({ leads: "bench", isHere: true, address: "127.0.0.1", origin: world.address }) },
      { origin: world.address, referer: `${world.address}/talk/wants-tokens`, "sec-fetch-site": "same-origin" },
      { origin: world.talk, "sec-fetch-dest": "iframe", "finch-client": "frame" },
    ];
    const wrong: string[] = [];
    const asked = all.filter(({ by, path }) => by === "visitor" || path.endsWith("/badges"));
    for (const slug of [token, nobody])
      for (const base of [world.address, world.talk])
        for (const headers of claims)
          await Promise.all(
            asked.map(async (call) => {
              const path = call.path.replace("{slug}", slug).replace("{id}", "msg_1").replace("{call}", "call_1");
              const response = await fetch(base + path, {
                method: call.method,
                headers,
                body: call.takes ? picture : call.body ? JSON.stringify(call.example?.body ?? {}) : undefined,
              });
              await response.text();
              if (![400, 401, 403].includes(response.status))
                wrong.push(`${JSON.stringify(headers)}: ${call.method} ${base}${path} → ${response.status}`);
            }),
          );
    expect(wrong).toEqual([]);

    // whoever opens the page can ask, is counted, and is held by the limit of an address
    const { calls: before } = await world.bench<{ calls: unknown[] }>("GET", `apps/${token}/calls`);
    expect(before.length).toBeGreaterThan(0);
    await world.bench("PUT", `apps/${token}/access`, {
      access: { callers: "token", limits: { visitor: null, address: 2, app: null } },
    });
    const own = { "finch-badge": await page(token) };
    const ask = () => of(token, "replies", own, { message: "Hello" });
    expect([(await ask()).status, (await ask()).status, (await ask()).status]).toEqual([200, 200, 429]);
    const { today } = await world.bench<{ today: { ofPage: number } }>("GET", `apps/${token}/serving`);
    expect(today.ofPage).toBe(3);
    const renewed = await of(token, "badges", own, { of: "page" });
    expect(renewed.status).toBe(201);
    // a page that is closed takes nothing more, from whoever has it open still
    await world.bench("PUT", `apps/${token}/access`, { access: { callers: "token", limits: noLimits, page: false } });
    expect([(await ask()).status, (await of(token, "badges", own, { of: "page" })).status]).toEqual([403, 403]);
  } finally {
    await world.stop();
  }
});

test("beyond this machine the bench opens by its link alone, and apps want a token", async () => {
  test.setTimeout(120_000);
  const world = await World.make();
  try {
    let said = "";
    await world.startStandIn();
    await world.startWeb({ ...world.apart, FINCH_HOST: "0.0.0.0" }, (line) => {
      said += line;
    });
    const refused = await fetch(`${world.address}/api/bench/apps`);
    expect(refused.status).toBe(403);
    await expect.poll(() => said).toMatch(/\/enter\/\S+/);
    const [link = ""] = /http:\S+\/enter\/\S+/.exec(said) ?? [];
    const entered = await fetch(link, { redirect: "manual" });
    expect([entered.status, entered.headers.get("location")]).toEqual([303, "/"]);
    const cookie = entered.headers.get("set-cookie")?.split(";")[0] ?? "";
    expect((await fetch(link, { redirect: "manual" })).status).toBe(403);
    const bench = (path: string, method = "GET", body?: object) =>
      fetch(`${world.address}/api/bench/${path}`, { method, headers: { cookie }, body: body && JSON.stringify(body) });
    expect((await bench("apps")).status).toBe(200);
    const about = (await (await fetch(`${world.standIn}/standin/about`)).json()) as object;
    const wired = await bench("providers", "POST", { ...about, address: world.standIn });
    const { id } = (await wired.json()) as { id: string };
    await bench("apps", "POST", { name: "Quay Desk", provider: id, model: "reed-swift" });
    const ask = (base: string, headers: Record<string, string>) =>
      fetch(`${base}/api/apps/quay-desk/replies`, { method: "POST", headers, body: '{"message":"Hello"}' });
    // it is not the address of who calls that counts, but what is listened on
    expect((await ask(world.talk, { "finch-visitor": "ada" })).status).toBe(401);
    const made = await bench("apps/quay-desk/tokens", "POST", { kind: "server", name: "Mine" });
    const { text } = (await made.json()) as { text: string };
    expect((await ask(world.talk, { "finch-visitor": "ada", authorization: `Bearer ${text}` })).status).toBe(200);
    expect((await fetch(`${world.talk}/talk/quay-desk`)).status).toBe(200);
    expect((await fetch(`${world.talk}/api/bench/apps`, { headers: { cookie } })).status).toBe(404);
  } finally {
    await world.stop();
  }
});
