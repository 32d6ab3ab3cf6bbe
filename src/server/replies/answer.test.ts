import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Content } from "@/core/revision/revision";
import { accessSchema } from "@/core/serving/access";
import { uncalibrated } from "@/core/tokens/calibration";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { dispatchesOf } from "../answers/dispatches";
import { wholeAnswer } from "../answers/replies";
import { deleteApp } from "../apps/app";
import type { StoredApp } from "../apps/app-store";
import { sendAgain } from "../dispatches/again";
import { isRefusal } from "../refusal";
import { testFolder } from "../test-folder";
import { plainWiring } from "../test-provider";
import { type AskedBy, ask, bench } from "./ask";
import { numbered } from "./event-store";

const key = "secret-4f2a-key";

let { home, remove } = testFolder();
remove();
let server: Server;
let app: StoredApp;
let provider = "";
/** The name by which revisions know it. */
let slug = "";
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
      ...plainWiring,
      address,
      profileText: JSON.stringify(chatCompletions),
      credential: { kind: "key", secret: { variable: "TEST_KEY" } },
    },
    1,
  );
  home.providers.putModels(provider, [
    { name: "m", window: 500, price: { input: 1_000_000, output: 2_000_000, currency: "EUR" } },
  ]);
  slug = home.providers.byId(provider)?.slug ?? "";
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
    provider: slug,
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
    expect(home.providers.model(provider, "m")?.calibration).toMatchObject({ calls: 2 });
    expect(home.messages.message(reply)).toMatchObject({ reported: 4, state: "complete" });
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
    await home.packing.start();
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
    expect(home.messages.message(reply)).toMatchObject({ state: "failed", pieces: [{ text: "Half a" }] });
    expect(eventsOf(reply).map(({ event }) => event)).toEqual(["reply", "text", "usage", "problem"]);
  });

  it("ends misconfigured without a call where the key is not set", async () => {
    delete process.env.TEST_KEY;
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await expect(wholeAnswer(home, reply)).rejects.toMatchObject({
      problem: { kind: "misconfigured", detail: "The provider is not set up for this call." },
    });
    expect(home.messages.message(reply)).toMatchObject({
      facts: { problem: { detail: expect.stringContaining("TEST_KEY") } },
    });
    expect(requests).toEqual([]);
  });

  it("ends misconfigured where the key has a line break, and says which", async () => {
    process.env.TEST_KEY = "one\ntwo";
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await home.hub.ended(reply);
    expect(home.messages.message(reply)).toMatchObject({
      facts: { problem: { kind: "misconfigured", detail: expect.stringMatching(/TEST_KEY has a line break/) } },
    });
  });

  it.each([
    ["1e999", "Infinity"],
    ["9e15", "9000000000000000"],
    ["-4", "-4"],
    ['"many"', "many"],
  ])("whose provider counts %s tokens is estimated, stored and learned nothing from", async (count, found) => {
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"Aye."},"finish_reason":"stop"}]}\n\n');
      response.end(
        `data: {"choices":[],"usage":{"prompt_tokens":${count},"completion_tokens":${count}}}\n\ndata: [DONE]\n\n`,
      );
    };
    const { reply } = ask(home, app, bench, { message: "Hello" });
    const { usage, text } = await wholeAnswer(home, reply);
    expect(text).toBe("Aye.");
    expect(usage).toMatchObject({ estimated: true, input: expect.any(Number) });
    expect(usage?.input).toBeLessThan(100);
    expect(home.providers.model(provider, "m")?.calibration).toEqual(uncalibrated);
    expect(dispatchesOf(home, reply)[0]?.notes).toEqual([
      { kind: "count-left-out", count: "input", found },
      { kind: "count-left-out", count: "output", found },
    ]);
    respond = streams(["Aye again."]);
    expect((await wholeAnswer(home, ask(home, app, bench, { message: "And now?" }).reply)).text).toBe("Aye again.");
  });

  it("that does not end by itself is ended at 16 million characters, with all of them kept", async () => {
    const line = `data: ${JSON.stringify({ choices: [{ delta: { content: "x".repeat(1_000_000) } }] })}\n\n`;
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      const more = () => {
        while (!response.destroyed && response.write(line));
        if (!response.destroyed) response.once("drain", more);
      };
      more();
    };
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await home.hub.ended(reply);
    const message = home.messages.message(reply);
    expect(message).toMatchObject({
      state: "failed",
      facts: { problem: { kind: "bad-reply", detail: expect.stringContaining("16 million characters") } },
    });
    expect(message?.pieces[0]?.text.length).toBeGreaterThan(16_000_000);
  });

  it("whose app is deleted while it arrives is stopped, and the next call of another app is answered", async () => {
    let left = false;
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"The boat "}}]}\n\n');
      response.on("close", () => {
        left = true;
      });
    };
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await expect.poll(() => home.hub.standing(reply)?.pieces[0]?.text).toBe("The boat ");
    await deleteApp(home, app);
    expect(left).toBe(true);
    expect(() => ask(home, app, bench, { message: "Hello" })).toThrow(/was deleted/);
    await home.removal.start();
    expect(home.database.prepare("SELECT count(*) FROM messages").pluck().get()).toBe(0);
    expect(home.database.prepare("SELECT DISTINCT data FROM latest_events").pluck().all()).toEqual([""]);
    respond = streams(["Aye."]);
    const other = home.apps.make("B", content({}), 2);
    expect((await wholeAnswer(home, ask(home, other, bench, { message: "Hello" }).reply)).text).toBe("Aye.");
  });

  it("ends as a problem where its making could not even be begun, and its conversation is free again", async () => {
    const make = vi.spyOn(home.dispatches, "make").mockImplementation(() => {
      throw new Error("disk I/O error");
    });
    const { reply, conversation } = ask(home, app, bench, { message: "Hello" });
    await expect(wholeAnswer(home, reply)).rejects.toMatchObject({ problem: { kind: "internal" } });
    expect(home.messages.message(reply)).toMatchObject({ state: "failed" });
    make.mockRestore();
    respond = streams(["Aye."]);
    expect((await wholeAnswer(home, ask(home, app, bench, { message: "Hello", conversation }).reply)).text).toBe(
      "Aye.",
    );
  });

  it("can't be asked for any more once the process is about to end, and what arrives is interrupted", async () => {
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"The boat "}}]}\n\n');
    };
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await expect.poll(() => home.hub.standing(reply)?.pieces[0]?.text).toBe("The boat ");
    const heard: string[] = [];
    home.hub.follow(reply, ({ event }) => heard.push(event));
    const left = home.leave(50);
    expect(() => ask(home, app, bench, { message: "Hello" })).toThrow(/being stopped/);
    await left;
    expect(heard).toEqual(["usage", "problem"]);
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
    const stranger: AskedBy = { asker: { kind: "new visitor", fresh: {} }, origin: "http", client: null };
    expect(() => ask(home, app, stranger, { message: "Hello", conversation: "con_none" })).toThrow(/no conversation/);
    home.apps.setDraft(app, content({ model: "gone" }));
    expect(() => ask(home, app, bench, { message: "Hello" })).toThrow(/no model gone; there is m/);
    home.apps.setDraft(app, content({ prompt: "At {{desk}}" }));
    expect(() => ask(home, app, bench, { message: "Hello" })).toThrow(/\{\{desk\}\}/);
    for (const table of ["visitors", "conversations", "messages", "event_pages", "dispatches"])
      expect(home.database.prepare(`SELECT count(*) FROM ${table}`).pluck().get()).toBe(0);
    expect(home.apps.latest(app.id).number).toBe(1);
  });

  it("answers the bench from the draft, as the next revision, and visitors from the live one", async () => {
    respond = streams(["Aye."]);
    home.apps.setDraft(app, content({ prompt: "Be long." }));
    const edited = home.apps.byId(app.id) ?? app;
    const visitor: AskedBy = {
      asker: { kind: "visitor", visitor: home.visitors.add(app.id, {}, 1) },
      origin: "http",
      client: null,
    };
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
    await expect.poll(() => home.hub.standing(stopped.reply)?.pieces[0]?.text).toBe("The boat ");
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
    expect(home.messages.message(stopped.reply)).toMatchObject({ state: "stopped" });
    expect(home.conversations.byId(stopped.conversation)?.tip).toBe(more.reply);
  });
});

describe("a call that fails before any text", () => {
  /** Fails the first calls in this way, then streams. */
  const failingFirst = (times: number, fail: (response: ServerResponse) => void) => {
    let calls = 0;
    return (response: ServerResponse) => {
      calls += 1;
      if (calls <= times) fail(response);
      else streams(["Aye."])(response);
    };
  };
  const retrying = (retries: number) => {
    const stored = home.providers.byId(provider);
    if (stored) home.providers.change(provider, { ...stored, retries });
  };
  const attemptsOf = (reply: string) => home.dispatches.ofReply(reply).map(({ outcome }) => outcome?.data);

  it("is made again, each attempt a dispatch of its own, and readers are told", async () => {
    retrying(2);
    respond = failingFirst(2, (response) => response.writeHead(503).end("{}"));
    const { reply } = ask(home, app, bench, { message: "Hello" });
    expect((await wholeAnswer(home, reply)).text).toBe("Aye.");
    expect(attemptsOf(reply)).toMatchObject([{ kind: "overloaded" }, { kind: "overloaded" }, { reason: "complete" }]);
    const events = eventsOf(reply).map(({ event }) => event);
    expect(events).toEqual(["reply", "attempt", "attempt", "text", "usage", "end"]);
    expect(home.messages.message(reply)).toMatchObject({ facts: { attempts: 3, failures: [{}, {}] } });
  });

  it("waits as long as the provider asks for", async () => {
    retrying(1);
    respond = failingFirst(1, (response) => response.writeHead(429, { "retry-after": "1" }).end("{}"));
    const started = performance.now();
    await wholeAnswer(home, ask(home, app, bench, { message: "Hello" }).reply);
    expect(performance.now() - started).toBeGreaterThanOrEqual(1000);
    expect(requests).toHaveLength(2);
  });

  it("is not made again where that makes no sense, nor more often than it may", async () => {
    retrying(1);
    respond = failingFirst(9, (response) => response.writeHead(403).end("{}"));
    await home.hub.ended(ask(home, app, bench, { message: "Hello" }).reply);
    expect(requests).toHaveLength(1);
    respond = failingFirst(9, (response) => response.writeHead(503).end("{}"));
    await home.hub.ended(ask(home, app, bench, { message: "Hello" }).reply);
    expect(requests).toHaveLength(3);
  });

  it("is never made again once text has shown", async () => {
    retrying(2);
    respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"Half a"}}]}\n\n');
      setTimeout(() => response.destroy(), 30);
    };
    await home.hub.ended(ask(home, app, bench, { message: "Hello" }).reply);
    expect(requests).toHaveLength(1);
  });

  it("can be stopped while it waits", async () => {
    retrying(2);
    respond = failingFirst(9, (response) => response.writeHead(429, { "retry-after": "30" }).end("{}"));
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await expect.poll(() => home.hub.standing(reply)?.next?.after).toBe(30);
    await home.hub.stop(reply);
    expect(home.messages.message(reply)).toMatchObject({ state: "stopped" });
    expect(requests).toHaveLength(1);
  });

  it("goes on to a fallback, with its own window, and the reply says which and why", async () => {
    const other = home.providers.add(
      { ...(home.providers.byId(provider) as never as object), name: "Other" } as never,
      2,
    );
    const price = { input: 0, output: 0, currency: "EUR" };
    home.providers.putModels(other, [
      { name: "small", window: 20, price },
      { name: "large", window: 900, price },
    ]);
    const fallbacks = [
      { provider: "other", model: "small" },
      { provider: "other", model: "large" },
    ];
    respond = (response, body) =>
      JSON.parse(body).model === "m" ? response.writeHead(500).end("{}") : streams(["From the other."])(response);
    home.apps.setDraft(app, content({ fallbacks }));
    const { reply } = ask(home, app, bench, { message: "Hello" });
    expect(await wholeAnswer(home, reply)).toMatchObject({
      text: "From the other.",
      provider: "Other",
      model: "large",
    });
    expect(home.messages.message(reply)).toMatchObject({
      facts: {
        insteadOf: { provider: "Test", model: "m" },
        failures: [
          { model: "m", problem: { kind: "overloaded" } },
          { model: "small", problem: { kind: "too-long" } },
        ],
      },
    });
    expect(home.dispatches.ofReply(reply).map(({ model, ledger }) => [model, ledger?.window])).toEqual([
      ["m", 500],
      ["large", 900],
    ]);
  });
});

describe("what an app may spend a day", () => {
  const cost = 38;
  /** The most that one call of the test can cost. */
  const mostOfOne = async () => {
    limitTo(1_000);
    respond = () => {};
    const { reply } = ask(home, app, bench, { message: "Hello" });
    const most = home.reservations.of(app.id) / 1_000_000;
    await home.hub.stop(reply);
    return most;
  };
  const limitTo = (day: number) => {
    app = home.apps.setAccess(app, accessSchema.parse({ limits: { day } }));
  };
  const tryToAsk = () => {
    try {
      return ask(home, app, bench, { message: "Hello" }).reply;
    } catch (error) {
      return isRefusal(error) ? error.problem : undefined;
    }
  };

  it("holds with ten calls at once: what each can cost is held until it has ended", async () => {
    const most = await mostOfOne();
    let release = () => {};
    const gate = new Promise<void>((resolve) => {
      release = resolve;
    });
    respond = (response, body) => void gate.then(() => streams(["Aye."])(response), body as never);
    const spent = home.spend.since(app.id, 0) / 1_000_000;
    limitTo(spent + most * 3);
    const asked = Array.from({ length: 10 }, tryToAsk);
    const taken = asked.filter((each) => typeof each === "string");
    expect(taken.length).toBe(3);
    for (const refused of asked.slice(3))
      expect(refused).toMatchObject({ kind: "over-limit", retryAfter: expect.any(Number) });
    release();
    for (const reply of taken) await wholeAnswer(home, reply);
    expect(home.reservations.of(app.id)).toBe(0);
    expect(home.spend.since(app.id, 0)).toBe((spent + cost * 3) * 1_000_000);
    // what was held and not spent is there again
    expect(typeof tryToAsk()).toBe("string");
  });

  it("holds nothing for a call that is refused, and lets go where one fails or is stopped", async () => {
    limitTo(await mostOfOne());
    expect(() => ask(home, app, bench, { goOn: "msg_none" })).toThrow();
    respond = (response) => response.writeHead(500).end();
    await wholeAnswer(home, ask(home, app, bench, { message: "Hello" }).reply).catch(() => {});
    expect(home.reservations.of(app.id)).toBe(0);
    respond = () => {};
    const { reply } = ask(home, app, bench, { message: "Hello" });
    expect(home.reservations.of(app.id)).toBeGreaterThan(0);
    await home.hub.stop(reply);
    await vi.waitFor(() => expect(home.reservations.of(app.id)).toBe(0));
  });

  it("adds up: replies, their conversation, the app and the day; deleting changes none of what was spent", async () => {
    respond = streams(["Aye."]);
    const first = ask(home, app, bench, { message: "Hello" });
    await wholeAnswer(home, first.reply);
    const next = ask(home, app, bench, { message: "And?", conversation: first.conversation });
    await wholeAnswer(home, next.reply);
    const replies = [first, next].map(({ reply }) => {
      const message = home.messages.message(reply);
      return message?.role === "app" ? Math.round((message.facts.usage?.price ?? 0) * 1_000_000) : 0;
    });
    const sum = replies.reduce((all, each) => all + each, 0);
    expect(home.conversations.stored(first.conversation)?.price).toBe(sum);
    expect(home.spend.since(app.id, 0)).toBe(sum);
    home.conversations.leave(first.conversation, Date.now());
    expect(home.spend.since(app.id, 0)).toBe(sum);
  });
});

describe("a dispatch", () => {
  it("is shown with its ledger, its request without the key, its arrivals and what was read", async () => {
    respond = streams(["The ", "9:40."]);
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await wholeAnswer(home, reply);
    home.dispatches.setReader(reply, [
      [5, 4],
      [300, 5],
    ]);
    const [shown] = dispatchesOf(home, reply);
    expect(shown).toMatchObject({ attempt: 1, status: 200, end: "complete", text: "The 9:40.", isThinned: false });
    expect(shown?.request.headers.authorization).toBe("Bearer ••••");
    expect(shown?.curl).toContain("Bearer $TEST_KEY");
    expect(shown?.arrivals.flatMap(({ read }) => read)).toEqual([
      "text: The ",
      "text: 9:40.",
      "usage: 30 input, 4 output",
      "end: complete",
    ]);
    expect(shown?.ledger?.entries.map(({ part, text }) => [part, text])).toEqual([
      ["prompt", ""],
      ["messages", "Hello"],
    ]);
    expect(shown?.reader).toHaveLength(2);
  });

  it("is sent again as it was edited, with the key, and only to its own provider", async () => {
    respond = streams(["Aye."]);
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await wholeAnswer(home, reply);
    const [first] = dispatchesOf(home, reply);
    if (!first) throw new Error("There is no dispatch.");
    const { url, headers } = first.request;
    const body = JSON.stringify({ model: "edited" });
    const answer = await sendAgain(home, first.id, { url, headers, body }, new AbortController().signal);
    expect(answer).toMatchObject({ status: 200, text: expect.stringContaining("Aye."), problem: null });
    expect(requests[1]).toMatchObject({ headers: { authorization: `Bearer ${key}` }, body });
    expect(home.dispatches.ofReply(reply)).toHaveLength(1);
    const elsewhere = { url: "http://127.0.0.1:9/x", headers, body };
    await expect(sendAgain(home, first.id, elsewhere, new AbortController().signal)).rejects.toThrow(
      /can be sent to http:\/\/127.0.0.1:\d+ only/,
    );
  });

  it("keeps its ledger, usage and outcome when its bytes are thinned out", async () => {
    respond = streams(["Aye."]);
    const { reply } = ask(home, app, bench, { message: "Hello" });
    await wholeAnswer(home, reply);
    await home.packing.start();
    expect(home.dispatches.sizes().count).toBe(1);
    expect(home.dispatches.thin(Date.now() + 1)).toBe(1);
    expect(dispatchesOf(home, reply)[0]).toMatchObject({
      isThinned: true,
      arrivals: [],
      end: "complete",
      usage: { input: 30 },
      request: { body: "" },
    });
    expect(home.dispatches.sizes()).toEqual({ count: 0, bytes: 0 });
  });
});
