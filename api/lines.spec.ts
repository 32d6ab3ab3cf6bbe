import { expect, noLimits, test, type World } from "../e2e/fixtures";

const sse = "text/event-stream";

interface Message {
  id: string;
  role: string;
  pieces: { text: string }[];
  siblings: string[];
}

/** A visitor of an app who calls by hand. */
function visitorOf(world: World, slug: string, name = "ada") {
  const call = (path: string, init: RequestInit = {}) =>
    fetch(`${world.address}/api/apps/${slug}/${path}`, {
      ...init,
      headers: { "finch-visitor": name, ...(init.headers as Record<string, string>) },
    });
  return {
    call,
    say: async (body: object) =>
      (await (await call("replies", { method: "POST", body: JSON.stringify(body) })).json()) as {
        reply: string;
        message: string;
        conversation: string;
        takes: { reply: string; events: string }[];
      },
    line: async (conversation: string, query = "") =>
      (await (await call(`conversations/${conversation}${query}`)).json()) as {
        messages: Message[];
        before: string | null;
      },
  };
}

test.describe("what a visitor said before", () => {
  test("has takes and lines that are listed, and of which one is chosen", async ({ world }) => {
    const slug = await world.makeApp("Lines of ones own", {}, { limits: noLimits });
    const { say, line, call } = visitorOf(world, slug);
    const first = await say({ message: "Hello" });
    const { conversation } = first;
    const again = await say({ again: first.message });
    const shown = (await line(conversation)).messages;
    expect(shown.map(({ siblings }) => siblings)).toEqual([[], [first.reply, again.reply]]);
    expect(shown.at(-1)?.id).toBe(again.reply);
    const other = await line(conversation, `?through=${first.reply}`);
    expect(other.messages.at(-1)?.id).toBe(first.reply);
    const show = (message: string, who = call) =>
      who(`conversations/${conversation}/shown`, { method: "PUT", body: JSON.stringify({ message }) });
    expect((await show(first.reply)).status).toBe(204);
    expect((await line(conversation)).messages.at(-1)?.id).toBe(first.reply);
    // what is said next goes on from it
    const next = await say({ message: "And now?", conversation });
    expect((await line(conversation)).messages.map(({ id }) => id)).toEqual([
      first.message,
      first.reply,
      next.message,
      next.reply,
    ]);
    expect((await show("msg_nothing")).status).toBe(404);
    expect((await show(first.reply, visitorOf(world, slug, "ivo").call)).status).toBe(404);
    expect((await line(conversation, "?through=msg_nothing")).messages).toBeUndefined();
  });

  test("has as many on a page as is asked for, and a title of its visitor's own", async ({ world }) => {
    const slug = await world.makeApp("Sizes", {}, { limits: noLimits });
    const { say, line, call } = visitorOf(world, slug);
    const { conversation } = await say({ message: "One" });
    for (const message of ["Two", "Three"]) await say({ message, conversation });
    await say({ message: "Another" });
    const page = await line(conversation, "?turns=2");
    expect(
      page.messages.map(({ pieces }) => pieces[0]?.text).filter((text) => /^(One|Two|Three)$/.test(text ?? "")),
    ).toEqual(["Two", "Three"]);
    const earlier = await line(conversation, `?turns=2&before=${page.before}`);
    expect([earlier.messages.length, earlier.before]).toEqual([2, null]);
    const listed = async (query = "") =>
      (await (await call(`conversations${query}`)).json()) as {
        conversations: { id: string; title: string | null }[];
        before: string | null;
      };
    const one = await listed("?count=1");
    expect(one.conversations).toHaveLength(1);
    expect((await listed(`?count=1&before=${one.before}`)).conversations[0]?.id).toBe(conversation);
    for (const query of ["?count=0", "?count=101", "?count=x"])
      expect((await call(`conversations${query}`)).status).toBe(400);
    const name = (title: unknown) =>
      call(`conversations/${conversation}`, { method: "PATCH", body: JSON.stringify({ title }) });
    expect((await name(" Two bicycles ")).status).toBe(204);
    expect((await listed()).conversations.find(({ id }) => id === conversation)?.title).toBe("Two bicycles");
    expect((await name("")).status).toBe(400);
    // the developer's own title is the developer's
    await world.bench("PATCH", `conversations/${conversation}`, { title: "A difficult one" });
    expect((await listed()).conversations.find(({ id }) => id === conversation)?.title).toBe("Two bicycles");
    expect((await name(null)).status).toBe(204);
    expect(JSON.stringify(await listed())).not.toContain("difficult");
  });

  test("is said in several takes at once", async ({ world }) => {
    const slug = await world.makeApp("At once", {}, { limits: noLimits });
    const { say, line } = visitorOf(world, slug);
    const { takes, conversation } = await say({ message: "Hello", count: 3 });
    expect(takes).toHaveLength(3);
    for (const { events } of takes) await (await fetch(events, { headers: { accept: sse } })).text();
    expect((await line(conversation)).messages.at(-1)?.siblings).toEqual(takes.map(({ reply }) => reply));
  });
});

test.describe("whoever polls a reply", () => {
  test("is told the whole problem, how long to wait, and what it cost", async ({ world }) => {
    const slug = await world.makeApp("Polled", {}, { limits: noLimits });
    const { call } = visitorOf(world, slug);
    const later = async () => {
      const asked = await call("replies", {
        method: "POST",
        body: '{"message":"Hello"}',
        headers: { prefer: "respond-async" },
      });
      return ((await asked.json()) as { reply: string }).reply;
    };
    const standing = async (reply: string) => (await (await call(`replies/${reply}`)).json()) as { state: string };
    const good = await later();
    await expect
      .poll(async () => standing(good))
      .toMatchObject({
        state: "complete",
        usage: { input: expect.any(Number), price: expect.any(Number) },
      });
    await world.fault({ fault: "status", status: 429, retryAfter: 7 });
    const bad = await later();
    await expect
      .poll(async () => standing(bad))
      .toMatchObject({
        state: "failed",
        problem: {
          kind: "rate-limited",
          status: 503,
          title: expect.any(String),
          advice: expect.any(String),
          retryAfter: expect.any(Number),
          reply: bad,
        },
      });
  });

  test("goes on with lines of JSON after the last one that it had", async ({ world }) => {
    const slug = await world.makeApp("Lines of JSON", {}, { limits: noLimits });
    const { call, say } = visitorOf(world, slug);
    const { reply } = await say({ message: "Hello" });
    const read = (last: string) =>
      call(`replies/${reply}`, { headers: { accept: "application/x-ndjson", "last-event-id": last } });
    const all = (await (await read("0")).text()).trim().split("\n");
    const rest = (await (await read("2")).text()).trim().split("\n");
    expect(rest).toEqual(all.slice(2));
    expect((await read(String(all.length))).status).toBe(204);
  });
});
