import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import type { NumberedEvent } from "@/core/reply/events";
import { TestProvider } from "@/server/test/provider";
import { eventsOf, expect, noLimits, test, type World } from "../e2e/fixtures";

const booking = {
  name: "book_places",
  description: "Books places on a boat",
  parameters: { type: "object", properties: {} },
  answer: { by: "text" as const, text: "Booked as number 17." },
  asks: true as const,
};
const asking = "Book places on a boat, please.";

/** Asks as a visitor, and gives the events until one is as wanted, with the way to read on. */
async function askedUntil(world: World, slug: string, isWanted: (event: NumberedEvent) => boolean) {
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { accept: "text/event-stream", "finch-visitor": "ada" },
    body: JSON.stringify({ message: asking }),
  });
  const events = eventsOf(response);
  const had: NumberedEvent[] = [];
  const more = async (until: (event: NumberedEvent) => boolean) => {
    for (;;) {
      const { value, done } = await events.next();
      if (done) return had;
      had.push(value);
      if (until(value)) return had;
    }
  };
  await more(isWanted);
  const [head] = had;
  return { had, more, reply: head?.event === "reply" ? head.data.reply : "" };
}

const waits = (event: NumberedEvent) => event.event === "tool" && event.data.waitsFor === "leave";
const say = (world: World, path: string, body: object, visitor = "ada") =>
  fetch(`${world.address}${path}`, {
    method: "POST",
    headers: { "finch-visitor": visitor },
    body: JSON.stringify(body),
  });

test("a caller is asked before a tool is called, and nobody else can say it; what it came to is told as far as Serve says", async ({
  world,
}) => {
  const access = { limits: noLimits, shows: [] };
  const slug = await world.makeApp("Asking", { model: "reed-deep", tools: [booking] }, access);
  const { had, more, reply } = await askedUntil(world, slug, waits);
  const asked = had.at(-1);
  if (asked?.event !== "tool") throw new Error("It asks for nothing.");
  expect(asked.data).toMatchObject({ name: "book_places", outcome: "waiting", asks: true, waitsFor: "leave" });
  const call = `/api/apps/${slug}/replies/${reply}/calls/${asked.data.call}`;
  expect((await say(world, call, { allow: true }, "bea")).status).toBe(404);
  expect((await say(world, call, { answer: "17" })).status).toBe(400);
  expect((await say(world, call, { allow: "yes" })).status).toBe(400);
  expect((await say(world, `${call}x`, { allow: true })).status).toBe(409);
  expect((await say(world, call, { allow: true })).status).toBe(204);
  expect((await say(world, call, { allow: false })).status).toBe(409);
  const all = await more(({ event }) => event === "end");
  // what the tool said is told to nobody who is not shown tools
  const last = all.findLast(({ event }) => event === "tool");
  expect(last?.data).toMatchObject({ outcome: "answered", asks: true });
  expect(JSON.stringify(last)).not.toContain("number 17");
  expect(all.map((each) => (each.event === "text" ? each.data.text : "")).join("")).toContain("Booked as number 17");
});

test("a tool that is declined is not called, and a reply that waits for leave is stopped", async ({ world }) => {
  const slug = await world.makeApp("Declining", { model: "reed-deep", tools: [booking] });
  const declined = await askedUntil(world, slug, waits);
  const id = (had: NumberedEvent[]) => {
    const last = had.at(-1);
    return last?.event === "tool" ? last.data.call : "";
  };
  await say(world, `/api/apps/${slug}/replies/${declined.reply}/calls/${id(declined.had)}`, { allow: false });
  const all = await declined.more(({ event }) => event === "end");
  expect(all.findLast(({ event }) => event === "tool")?.data).toMatchObject({ outcome: "declined" });
  expect(JSON.stringify(all)).not.toContain("Booked as");
  const stopped = await askedUntil(world, slug, waits);
  const answer = await say(world, `/api/apps/${slug}/replies/${stopped.reply}/stop`, {});
  expect(await answer.json()).toMatchObject({ state: "stopped" });
  const call = `/api/apps/${slug}/replies/${stopped.reply}/calls/${id(stopped.had)}`;
  expect((await say(world, call, { allow: true })).status).toBe(409);
});

test("two calls of one round are made at once where the app allows it", async ({ world }) => {
  let atOnce = 0;
  let most = 0;
  const open: (() => void)[] = [];
  const server = createServer((_request, response) => {
    atOnce += 1;
    most = Math.max(most, atOnce);
    open.push(() => {
      atOnce -= 1;
      response.end("4.00");
    });
    // the first waits for the second
    if (open.length === 2) for (const end of open) end();
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  try {
    const { port } = server.address() as AddressInfo;
    const tool = (name: string, description: string) => ({
      name,
      description,
      parameters: { type: "object", properties: {} },
      answer: {
        by: "address" as const,
        method: "GET" as const,
        url: `http://127.0.0.1:${port}/${name}`,
        allowsThisMachine: true as const,
      },
    });
    const tools = [tool("fares", "What a crossing costs"), tool("tides", "When high water is")];
    const slug = await world.makeApp("At once", { model: "reed-deep", tools, together: 2 });
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      body: JSON.stringify({ message: "What does a crossing cost, and when is high water?" }),
    });
    expect(response.status).toBe(200);
    expect(most).toBe(2);
  } finally {
    server.closeAllConnections();
    server.close();
  }
});

test("a caller that asked for the whole answer is told at once of a tool that asks first, and in the common shape it is declined", async ({
  world,
}) => {
  const slug = await world.makeApp("Asking at once", { model: "reed-deep", tools: [booking] });
  const whole = await say(world, `/api/apps/${slug}/replies`, { message: asking });
  expect(whole.status).toBe(202);
  const { reply, calls } = await whole.json();
  expect(calls).toMatchObject([{ name: "book_places", waitsFor: "leave" }]);
  expect((await say(world, `/api/apps/${slug}/replies/${reply}/calls/${calls[0].call}`, { allow: true })).status).toBe(
    204,
  );
  const ended = await fetch(`${world.address}/api/apps/${slug}/replies/${reply}`, {
    headers: { "finch-visitor": "ada", prefer: "wait=30" },
  });
  expect((await ended.json()).text).toContain("Booked as number 17");
  // a tool that reaches nothing changes nothing, and needs no leave; another one is declined
  const reaching = {
    ...booking,
    answer: { by: "address" as const, url: "http://127.0.0.1:1/", method: "POST" as const },
  };
  const other = await world.makeApp("Declined in that shape", { model: "reed-deep", tools: [reaching] });
  const answer = await say(world, `/api/apps/${other}/v1/chat/completions`, {
    messages: [{ role: "user", content: asking }],
  });
  const { choices } = await answer.json();
  expect([choices[0].finish_reason, choices[0].message.content]).toEqual([
    "stop",
    expect.stringContaining("not called"),
  ]);
});

const fares = {
  name: "fare_to",
  description: "The fare to a place",
  parameters: { type: "object", properties: { place: { type: "string" } }, required: ["place"] },
  answer: { by: "text" as const, text: "4.20 EUR" },
};

test("a model that asks for a tool nobody offered, with arguments that are no JSON, or without end does no harm", async ({
  world,
}) => {
  const slug = await world.makeApp("Wrongly asked", { model: "reed-deep", tools: [fares], rounds: 3 });
  const asked = async () =>
    (await say(world, `/api/apps/${slug}/replies`, { message: "What is the fare to Brindle?" })).json();
  const calls = async (reply: string) => {
    const { dispatches } = await world.bench<{ dispatches: unknown[] }>("GET", `replies/${reply}/dispatches`);
    return dispatches.length;
  };
  await world.fault({ fault: "tool-not-offered" });
  const unknown = await asked();
  expect(unknown).toMatchObject({
    form: "whole",
    end: "complete",
    text: expect.stringContaining("no tool ring_the_bell"),
  });
  await world.fault({ fault: "arguments-not-json" });
  const broken = await asked();
  expect(broken).toMatchObject({ form: "whole", text: expect.stringContaining("4.20 EUR") });
  expect(await calls(broken.reply)).toBe(3);
  await world.fault({ fault: "calls-without-end" });
  const endless = await asked();
  expect(endless).toMatchObject({ kind: "too-many-rounds" });
  expect(await calls(endless.reply)).toBe(4);
});

test("a tool's header carries a secret that the app was given, which stands in nothing that is told; a bundle takes none along", async ({
  world,
}) => {
  const keys: (string | undefined)[] = [];
  const server = await TestProvider.start((request, response) => {
    keys.push(request.headers["x-quay-key"]?.toString());
    response.end(`3 places, said to ${request.headers["x-quay-key"]}`);
  });
  try {
    const tool = {
      name: "places_left",
      description: "How many places are left on a boat",
      parameters: { type: "object", properties: {} },
      answer: {
        by: "address" as const,
        method: "GET" as const,
        url: `${server.address}/places`,
        headers: [{ name: "X-Quay-Key", value: "$QUAY_KEY" }],
        allowsThisMachine: true as const,
      },
    };
    const slug = await world.makeApp("Sealed", { model: "reed-deep", tools: [tool] });
    const ask = async (app: string) => {
      const asked = await say(world, `/api/apps/${app}/replies`, { message: "How many places are left?" });
      return JSON.stringify(await asked.json());
    };
    const missing = async (app: string) =>
      (await world.bench<{ items: { what: string }[] }>("GET", `apps/${app}/preflight`)).items.map(({ what }) => what);
    // what is named is not read from the environment until somebody here says so
    expect(await ask(slug)).toContain("the app is given no QUAY_KEY");
    expect(await missing(slug)).toContainEqual(expect.stringContaining("names $QUAY_KEY"));
    const path = `apps/${slug}/secrets`;
    const value = "quay-4711-sealed";
    expect(await world.bench("PUT", `${path}/QUAY_KEY`, { value })).toEqual({
      name: "QUAY_KEY",
      secret: { sealed: true },
    });
    expect(await ask(slug)).toContain("3 places");
    expect(keys).toEqual([value]);
    expect(await missing(slug)).not.toContainEqual(expect.stringContaining("QUAY_KEY"));
    const conversations = await (await fetch(`${world.address}/api/bench/apps/${slug}/export?as=jsonl`)).text();
    const bundle = await (await fetch(`${world.address}/api/bench/apps/${slug}/bundle`)).text();
    for (const told of [JSON.stringify(await world.bench("GET", path)), conversations, bundle, await ask(slug)])
      expect(told).not.toContain(value);
    // a copy at this bench has it; an app that is made of the bundle has not
    const copy = await world.bench<{ slug: string }>("POST", `apps/${slug}/copy`, { name: "Sealed, again" });
    expect(await ask(copy.slug)).toContain("3 places");
    const taken = await world.bench<{ slug: string }>("POST", "bundles", { text: bundle, name: "Taken in" });
    expect(await ask(taken.slug)).toContain("the app is given no QUAY_KEY");
    // from a variable that is not set, taken away, and names that are none
    await world.bench("PUT", `${path}/QUAY_KEY`, { variable: "NO_SUCH_KEY" });
    expect(await ask(slug)).toContain("the variable NO_SUCH_KEY is not set here");
    await world.bench("DELETE", `${path}/QUAY_KEY`);
    expect(await world.bench("GET", path)).toEqual({ secrets: [] });
    await expect(world.bench("DELETE", `${path}/QUAY_KEY`)).rejects.toThrow(/no secret QUAY_KEY/);
    await expect(world.bench("PUT", `${path}/two%20words`, { value })).rejects.toThrow(/no name of a secret/);
    await expect(world.bench("PUT", `${path}/QUAY_KEY`, { value: "two\nlines" })).rejects.toThrow(/line break/);
    expect(keys).toHaveLength(3);
  } finally {
    server.stop();
  }
});
