import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { usualLimits } from "@/contract/providers";
import type { Content } from "@/core/revision/revision";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import type { StoredApp } from "../apps/app-store";
import { testFolder } from "../test-folder";
import { type Asker, ask } from "./ask";
import { numbered } from "./event-store";
import { wholeAnswer } from "./reply-view";

const key = "secret-4f2a-key";
const bench: Asker = { kind: "bench" };

let { home, remove } = testFolder();
remove();
let server: Server;
let app: StoredApp;
let provider = "";
/** What the provider got, and what it is to do with the next calls. */
let requests: { headers: IncomingMessage["headers"]; body: string }[] = [];
let respond: (response: ServerResponse, body: string) => void;

beforeEach(async () => {
  ({ home, remove } = testFolder());
  process.env.TEST_KEY = key;
  requests = [];
  server = createServer((request, response) => {
    let body = "";
    request.on("data", (chunk) => {
      body += chunk;
    });
    request.on("end", () => {
      requests.push({ headers: request.headers, body });
      respond(response, body);
    });
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
  provider = home.providers.add(
    {
      name: "Test",
      address,
      profileText: JSON.stringify(chatCompletions),
      credential: { kind: "key", secret: { variable: "TEST_KEY" } },
      headers: {},
      limits: usualLimits,
      retries: 0,
      proxy: null,
      caFile: null,
    },
    1,
  );
  home.providers.putModels(provider, [
    { name: "m", window: 500, price: { input: 1_000_000, output: 2_000_000, currency: "EUR" } },
  ]);
  app = home.apps.make("A", content({}), 1);
});
afterEach(() => {
  server.closeAllConnections();
  server.close();
  remove();
});

function content(change: Partial<Content>): Content {
  const plain: Content = {
    prompt: "Be brief.",
    variables: {},
    provider,
    model: "m",
    settings: { maxOutput: 50 },
    memory: { kind: "everything" },
  };
  return { ...plain, ...change };
}

/** A provider that streams these deltas, and then ends as told. */
function streams(deltas: string[], finish = "stop", usage = true) {
  return (response: ServerResponse) => {
    response.writeHead(200, { "content-type": "text/event-stream" });
    for (const text of deltas)
      response.write(`data: ${JSON.stringify({ choices: [{ delta: { content: text }, finish_reason: null }] })}\n\n`);
    response.write(`data: ${JSON.stringify({ choices: [{ delta: {}, finish_reason: finish }] })}\n\n`);
    if (usage) response.write('data: {"choices":[],"usage":{"prompt_tokens":30,"completion_tokens":4}}\n\n');
    response.end("data: [DONE]\n\n");
  };
}

const eventsOf = (reply: string) => home.events.ofReply(reply, 0).map(numbered);

describe("a reply on its way", () => {
  it("carries the prompt and the line, with the key in its header alone", async () => {
    respond = streams(["Aye."]);
    const { reply } = ask(home, app, bench, { message: "Hello" });
    expect(await wholeAnswer(home, reply)).toMatchObject({ text: "Aye.", end: "complete" });
    expect(requests[0]?.headers.authorization).toBe(`Bearer ${key}`);
    expect(JSON.parse(requests[0]?.body ?? "")).toMatchObject({
      model: "m",
      max_tokens: 50,
      messages: [
        { role: "system", content: "Be brief." },
        { role: "user", content: "Hello" },
      ],
    });
  });

  it("costs what the provider reported, and teaches the estimate", async () => {
    respond = streams(["Aye."]);
    const { reply } = ask(home, app, bench, { message: "Hello" });
    const { usage } = await wholeAnswer(home, reply);
    expect(usage).toEqual({ input: 30, output: 4, estimated: false, price: 38, currency: "EUR" });
    expect(home.providers.model(provider, "m")?.calibration).toMatchObject({ calls: 1 });
    expect(home.conversations.message(reply)).toMatchObject({ tokens: 4, state: "complete" });
  });

  it("is estimated where the provider reports nothing, and says so", async () => {
    respond = streams(["Aye."], "stop", false);
    const { usage } = await wholeAnswer(home, ask(home, app, bench, { message: "Hello" }).reply);
    expect(usage).toMatchObject({ estimated: true, output: 2 });
    expect(home.providers.model(provider, "m")?.calibration.calls).toBe(0);
  });

  it("leaves no key anywhere in the database, though the provider echoes it", async () => {
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      const event = `data: ${JSON.stringify({ choices: [{ delta: { content: `your key is ${key}.` }, finish_reason: "stop" }] })}\n\n`;
      const middle = event.indexOf(key) + 6;
      response.write(event.slice(0, middle));
      setImmediate(() => response.end(event.slice(middle)));
    };
    const { reply } = ask(home, app, bench, { message: "Hello" });
    expect((await wholeAnswer(home, reply)).text).toBe(`your key is ${"*".repeat(key.length)}.`);
    const tables = home.database
      .prepare<[], { name: string }>("SELECT name FROM sqlite_schema WHERE type = 'table'")
      .all();
    for (const { name } of tables)
      for (const row of home.database.prepare<[], object>(`SELECT * FROM ${name}`).all())
        for (const value of Object.values(row)) expect(Buffer.from(String(value)).includes(key)).toBe(false);
    expect(home.database.prepare("SELECT request FROM dispatches").pluck().get()).toContain("Bearer ••••");
  });

  it("keeps the bytes of its dispatch as they came", async () => {
    respond = streams(["The ", "9:40."]);
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await wholeAnswer(home, reply);
    const [dispatch] = home.dispatches.ofReply(reply);
    expect(dispatch?.bytes?.toString()).toMatch(/^data: .*9:40.*data: \[DONE\]\n\n$/s);
    expect(dispatch?.arrivals.reduce((sum, [, length]) => sum + length, 0)).toBe(dispatch?.bytes?.length);
    expect(home.database.prepare("SELECT count(*) FROM dispatch_chunks").pluck().get()).toBe(0);
  });

  it("keeps the text that came before a failure, and gives it as partial", async () => {
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"Half a"}}]}\n\n');
      setTimeout(() => response.destroy(), 30);
    };
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await expect(wholeAnswer(home, reply)).rejects.toMatchObject({
      problem: { kind: "broken-off" },
      extras: { partial: "Half a", reply },
    });
    expect(home.conversations.message(reply)).toMatchObject({ state: "failed", pieces: [{ text: "Half a" }] });
    expect(eventsOf(reply).map(({ event }) => event)).toEqual(["reply", "text", "usage", "problem"]);
  });

  it("ends misconfigured without a call where the key is not set", async () => {
    delete process.env.TEST_KEY;
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await expect(wholeAnswer(home, reply)).rejects.toMatchObject({
      problem: { kind: "misconfigured", detail: expect.stringContaining("TEST_KEY") },
    });
    expect(requests).toEqual([]);
  });

  it("is read whole where the provider does not stream", async () => {
    respond = (response) => {
      response.writeHead(200, { "content-type": "application/json" });
      response.end('{"choices":[{"message":{"content":"All at once."},"finish_reason":"stop"}]}');
    };
    expect((await wholeAnswer(home, ask(home, app, bench, { message: "Hello" }).reply)).text).toBe("All at once.");
  });
});

describe("asking", () => {
  it("stores nothing at all when it is refused", () => {
    expect(() => ask(home, app, bench, { message: "boat ".repeat(600) })).toThrow(/too many/);
    expect(() => ask(home, { ...app, draft: content({ model: "gone" }) }, bench, { message: "Hello" })).toThrow(
      /no model gone; there is m/,
    );
    expect(() => ask(home, { ...app, draft: content({ prompt: "At {{desk}}" }) }, bench, { message: "Hello" })).toThrow(
      /\{\{desk\}\}/,
    );
    for (const table of ["conversations", "messages", "reply_events", "dispatches"])
      expect(home.database.prepare(`SELECT count(*) FROM ${table}`).pluck().get()).toBe(0);
    expect(home.apps.latest(app.id).number).toBe(1);
  });

  it("answers the bench from the draft, as the next revision, and visitors from the live one", async () => {
    respond = streams(["Aye."]);
    home.apps.setDraft(app.id, content({ prompt: "Be long." }));
    const edited = home.apps.byId(app.id) ?? app;
    const visitor: Asker = { kind: "visitor", visitor: home.visitors.add(1) };
    expect((await wholeAnswer(home, ask(home, edited, bench, { message: "Hello" }).reply)).revision).toBe(2);
    expect((await wholeAnswer(home, ask(home, edited, visitor, { message: "Hello" }).reply)).revision).toBe(1);
    expect(requests.map(({ body }) => JSON.parse(body).messages[0].content)).toEqual(["Be long.", "Be brief."]);
  });

  it("does not carry a turn without an answer", async () => {
    respond = (response) => response.writeHead(503).end("{}");
    const first = ask(home, app, bench, { message: "One?" });
    await home.hub.ended(first.reply);
    respond = streams(["Two."]);
    await wholeAnswer(home, ask(home, app, bench, { message: "Two?", conversation: first.conversation }).reply);
    expect(JSON.parse(requests[1]?.body ?? "").messages.map(({ content }: { content: string }) => content)).toEqual([
      "Be brief.",
      "Two?",
    ]);
  });

  it("goes on from a stopped reply with a take that holds both parts", async () => {
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"The boat "}}]}\n\n');
    };
    const stopped = ask(home, app, bench, { message: "Hello" });
    await expect.poll(() => home.hub.standing(stopped.reply)?.text).toBe("The boat ");
    expect(() => ask(home, app, bench, { goOn: stopped.reply })).toThrow(/still arriving/);
    expect(() => ask(home, app, bench, { message: "And?", conversation: stopped.conversation })).toThrow(
      /still arriving/,
    );
    await home.hub.stop(stopped.reply);
    respond = streams(["leaves."]);
    const more = ask(home, app, bench, { goOn: stopped.reply });
    expect(more).toMatchObject({ continues: stopped.reply, message: stopped.message });
    expect((await wholeAnswer(home, more.reply)).text).toBe("The boat leaves.");
    expect(JSON.parse(requests[1]?.body ?? "").messages.at(-1)).toEqual({ role: "assistant", content: "The boat " });
    expect(home.conversations.message(stopped.reply)).toMatchObject({ state: "stopped" });
    expect(home.conversations.byId(stopped.conversation)?.tip).toBe(more.reply);
  });
});
