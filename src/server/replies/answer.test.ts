import { describe, expect, it, vi } from "vitest";
import { textOf } from "@/core/conversation/pieces";
import { emptyReply } from "@/core/reply/reply";
import { toldAll } from "@/core/reply/told";
import { uncalibrated } from "@/core/tokens/calibration";
import { dispatchesOf } from "../answers/dispatches";
import { wholeAnswer } from "../answers/replies";
import { deleteApp } from "../tending/deleting";
import { streams, TestApp, testKey } from "../test/app";
import { type AskedBy, ask, bench } from "./ask";

const on = TestApp.each();

describe("a reply on its way", () => {
  it("carries the prompt and the line, with the key in its header alone", async () => {
    on.respond = streams(["Aye."]);
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    expect(await wholeAnswer(on.home, reply, toldAll)).toMatchObject({ text: "Aye.", end: "complete" });
    expect(on.requests[0]?.headers.authorization).toBe(`Bearer ${testKey}`);
    expect(JSON.parse(on.requests[0]?.body ?? "")).toMatchObject({
      model: "m",
      max_tokens: 50,
      messages: [
        { role: "system", content: "Be brief." },
        { role: "user", content: "Hello" },
      ],
    });
  });

  it("costs what the provider reported, and teaches the estimate", async () => {
    on.respond = streams(["Aye."]);
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    const { usage } = await wholeAnswer(on.home, reply, toldAll);
    expect(usage).toEqual({ input: 30, output: 4, estimated: false, price: 38, currency: "EUR" });
    expect(on.home.providers.model(on.provider, "m")?.calibration).toMatchObject({ calls: 2 });
    expect(on.home.messages.message(reply)).toMatchObject({ reported: 4, state: "complete" });
  });

  it("is estimated where the provider reports nothing, and says so", async () => {
    on.respond = streams(["Aye."], "stop", false);
    const { usage } = await wholeAnswer(on.home, ask(on.home, on.app, bench, { message: "Hello" }).reply, toldAll);
    expect(usage).toMatchObject({ estimated: true, output: 2 });
    expect(on.home.providers.model(on.provider, "m")?.calibration.calls).toBe(0);
  });

  it("leaves no key anywhere in the database, though the provider echoes it", async () => {
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      const event = `data: ${JSON.stringify({ choices: [{ delta: { content: `your key is ${testKey}.` }, finish_reason: "stop" }] })}\n\n`;
      const middle = event.indexOf(testKey) + 6;
      response.write(event.slice(0, middle));
      setImmediate(() => response.end(event.slice(middle)));
    };
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    expect((await wholeAnswer(on.home, reply, toldAll)).text).toBe(`your key is ${"*".repeat(testKey.length)}.`);
    const tables = on.home.database
      .prepare<[], { name: string }>("SELECT name FROM sqlite_schema WHERE type = 'table'")
      .all();
    for (const { name } of tables)
      for (const row of on.home.database.prepare<[], object>(`SELECT * FROM ${name}`).all())
        for (const value of Object.values(row)) expect(Buffer.from(String(value)).includes(testKey)).toBe(false);
    expect(on.home.database.prepare("SELECT request FROM dispatches").pluck().get()).toContain("Bearer ••••");
  });

  it("keeps the bytes of its dispatch as they came", async () => {
    on.respond = streams(["The ", "9:40."]);
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await wholeAnswer(on.home, reply, toldAll);
    const [dispatch] = on.home.dispatches.ofReply(reply);
    expect(dispatch?.bytes?.toString()).toMatch(/^data: .*9:40.*data: \[DONE\]\n\n$/s);
    expect(dispatch?.arrivals.reduce((sum, [, length]) => sum + length, 0)).toBe(dispatch?.bytes?.length);
    await on.home.packing.start();
    expect(on.home.database.prepare("SELECT count(*) FROM dispatch_chunks").pluck().get()).toBe(0);
  });

  it("keeps the text that came before a failure, and gives it as partial", async () => {
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"Half a"}}]}\n\n');
      setTimeout(() => response.destroy(), 30);
    };
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await expect(wholeAnswer(on.home, reply, toldAll)).rejects.toMatchObject({
      problem: { kind: "broken-off" },
      extras: { partial: "Half a", reply },
    });
    expect(on.home.messages.message(reply)).toMatchObject({ state: "failed", pieces: [{ text: "Half a" }] });
    expect(on.eventsOf(reply).map(({ event }) => event)).toEqual(["reply", "text", "usage", "problem"]);
  });

  it("ends misconfigured without a call where the key is not set", async () => {
    delete process.env.TEST_KEY;
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await expect(wholeAnswer(on.home, reply, toldAll)).rejects.toMatchObject({
      problem: { kind: "misconfigured", detail: "The provider is not set up for this call." },
    });
    expect(on.home.messages.message(reply)).toMatchObject({
      facts: { problem: { detail: expect.stringContaining("TEST_KEY") } },
    });
    expect(on.requests).toEqual([]);
  });

  it("ends misconfigured where the key has a line break, and says which", async () => {
    process.env.TEST_KEY = "one\ntwo";
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await on.home.hub.ended(reply);
    expect(on.home.messages.message(reply)).toMatchObject({
      facts: { problem: { kind: "misconfigured", detail: expect.stringMatching(/TEST_KEY has a line break/) } },
    });
  });

  it.each([
    ["1e999", "Infinity"],
    ["9e15", "9000000000000000"],
    ["-4", "-4"],
    ['"many"', "many"],
  ])("whose provider counts %s tokens is estimated, stored and learned nothing from", async (count, found) => {
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"Aye."},"finish_reason":"stop"}]}\n\n');
      response.end(
        `data: {"choices":[],"usage":{"prompt_tokens":${count},"completion_tokens":${count}}}\n\ndata: [DONE]\n\n`,
      );
    };
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    const { usage, text } = await wholeAnswer(on.home, reply, toldAll);
    expect(text).toBe("Aye.");
    expect(usage).toMatchObject({ estimated: true, input: expect.any(Number) });
    expect(usage?.input).toBeLessThan(100);
    expect(on.home.providers.model(on.provider, "m")?.calibration).toEqual(uncalibrated);
    expect(dispatchesOf(on.home, reply)[0]?.notes).toEqual([
      { kind: "count-left-out", count: "input", found },
      { kind: "count-left-out", count: "output", found },
    ]);
    on.respond = streams(["Aye again."]);
    expect((await wholeAnswer(on.home, ask(on.home, on.app, bench, { message: "And now?" }).reply, toldAll)).text).toBe(
      "Aye again.",
    );
  });

  it("that does not end by itself is ended at 16 million characters, with all of them kept", async () => {
    const line = `data: ${JSON.stringify({ choices: [{ delta: { content: "x".repeat(1_000_000) } }] })}\n\n`;
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      const more = () => {
        while (!response.destroyed && response.write(line));
        if (!response.destroyed) response.once("drain", more);
      };
      more();
    };
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await on.home.hub.ended(reply);
    const message = on.home.messages.message(reply);
    expect(message).toMatchObject({
      state: "failed",
      facts: { problem: { kind: "bad-reply", detail: expect.stringContaining("16 million characters") } },
    });
    expect(message && textOf(message).length).toBeGreaterThan(16_000_000);
  });

  it("whose app is deleted while it arrives is stopped, and the next call of another app is answered", async () => {
    let left = false;
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"The boat "}}]}\n\n');
      response.on("close", () => {
        left = true;
      });
    };
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await expect.poll(() => textOf(on.home.hub.standing(reply) ?? emptyReply)).toBe("The boat ");
    await deleteApp(on.home, on.app);
    await expect.poll(() => left).toBe(true);
    expect(() => ask(on.home, on.app, bench, { message: "Hello" })).toThrow(/was deleted/);
    await on.home.removal.start();
    expect(on.home.database.prepare("SELECT count(*) FROM messages").pluck().get()).toBe(0);
    expect(on.home.database.prepare("SELECT DISTINCT data FROM latest_events").pluck().all()).toEqual([""]);
    on.respond = streams(["Aye."]);
    const other = on.home.apps.make("B", on.content({}), 2);
    expect((await wholeAnswer(on.home, ask(on.home, other, bench, { message: "Hello" }).reply, toldAll)).text).toBe(
      "Aye.",
    );
  });

  it("ends as a problem where its making could not even be begun, and its conversation is free again", async () => {
    const make = vi.spyOn(on.home.dispatches, "make").mockImplementation(() => {
      throw new Error("disk I/O error");
    });
    const { reply, conversation } = ask(on.home, on.app, bench, { message: "Hello" });
    await expect(wholeAnswer(on.home, reply, toldAll)).rejects.toMatchObject({ problem: { kind: "internal" } });
    expect(on.home.messages.message(reply)).toMatchObject({ state: "failed" });
    make.mockRestore();
    on.respond = streams(["Aye."]);
    expect(
      (await wholeAnswer(on.home, ask(on.home, on.app, bench, { message: "Hello", conversation }).reply, toldAll)).text,
    ).toBe("Aye.");
  });

  it("can't be asked for any more once the process is about to end, and what arrives is interrupted", async () => {
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"The boat "}}]}\n\n');
    };
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await expect.poll(() => textOf(on.home.hub.standing(reply) ?? emptyReply)).toBe("The boat ");
    const heard: string[] = [];
    on.home.hub.follow(reply, ({ event }) => heard.push(event));
    const left = on.home.leave(50);
    expect(() => ask(on.home, on.app, bench, { message: "Hello" })).toThrow(/being stopped/);
    await left;
    expect(heard).toEqual(["usage", "problem"]);
  });

  it("is read whole where the provider does not stream", async () => {
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "application/json" });
      response.end('{"choices":[{"message":{"content":"All at once."},"finish_reason":"stop"}]}');
    };
    expect((await wholeAnswer(on.home, ask(on.home, on.app, bench, { message: "Hello" }).reply, toldAll)).text).toBe(
      "All at once.",
    );
  });
});

describe("asking", () => {
  it("stores nothing at all when it is refused", () => {
    expect(() => ask(on.home, on.app, bench, { message: "boat ".repeat(600) })).toThrow(/too many/);
    const stranger: AskedBy = { asker: { kind: "new visitor", fresh: {} }, origin: "http", client: null };
    expect(() => ask(on.home, on.app, stranger, { message: "Hello", conversation: "con_none" })).toThrow(
      /no conversation/,
    );
    on.home.apps.setDraft(on.app, on.content({ model: "gone" }), 1);
    expect(() => ask(on.home, on.app, bench, { message: "Hello" })).toThrow(/no model gone; there is m/);
    on.home.apps.setDraft(on.app, on.content({ prompt: "At {{desk}}" }), 1);
    expect(() => ask(on.home, on.app, bench, { message: "Hello" })).toThrow(/\{\{desk\}\}/);
    for (const table of ["visitors", "conversations", "messages", "event_pages", "dispatches"])
      expect(on.home.database.prepare(`SELECT count(*) FROM ${table}`).pluck().get()).toBe(0);
    expect(on.home.apps.latest(on.app.id).number).toBe(1);
  });

  it("answers the bench from the draft, as the next revision, and visitors from the live one", async () => {
    on.respond = streams(["Aye."]);
    on.home.apps.setDraft(on.app, on.content({ prompt: "Be long." }), 1);
    const edited = on.home.apps.byId(on.app.id) ?? on.app;
    const visitor: AskedBy = {
      asker: { kind: "visitor", visitor: on.home.visitors.add(on.app.id, {}, 1) },
      origin: "http",
      client: null,
    };
    expect(
      (await wholeAnswer(on.home, ask(on.home, edited, bench, { message: "Hello" }).reply, toldAll)).revision,
    ).toBe(2);
    expect(
      (await wholeAnswer(on.home, ask(on.home, edited, visitor, { message: "Hello" }).reply, toldAll)).revision,
    ).toBe(1);
    expect(on.requests.map(({ body }) => JSON.parse(body).messages[0].content)).toEqual(["Be long.", "Be brief."]);
  });

  it("does not carry a turn without an answer", async () => {
    on.respond = (response) => response.writeHead(503).end("{}");
    const first = ask(on.home, on.app, bench, { message: "One?" });
    await on.home.hub.ended(first.reply);
    on.respond = streams(["Two."]);
    await wholeAnswer(
      on.home,
      ask(on.home, on.app, bench, { message: "Two?", conversation: first.conversation }).reply,
      toldAll,
    );
    expect(JSON.parse(on.requests[1]?.body ?? "").messages.map(({ content }: { content: string }) => content)).toEqual([
      "Be brief.",
      "Two?",
    ]);
  });

  it("goes on from a stopped reply with a take that holds both parts", async () => {
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"The boat "}}]}\n\n');
    };
    const stopped = ask(on.home, on.app, bench, { message: "Hello" });
    await expect.poll(() => textOf(on.home.hub.standing(stopped.reply) ?? emptyReply)).toBe("The boat ");
    expect(() => ask(on.home, on.app, bench, { goOn: stopped.reply })).toThrow(/still arriving/);
    expect(() => ask(on.home, on.app, bench, { message: "And?", conversation: stopped.conversation })).toThrow(
      /still arriving/,
    );
    await on.home.hub.stop(stopped.reply);
    on.respond = streams(["leaves."]);
    const more = ask(on.home, on.app, bench, { goOn: stopped.reply });
    expect(more).toMatchObject({ continues: stopped.reply, message: stopped.message });
    expect((await wholeAnswer(on.home, more.reply, toldAll)).text).toBe("The boat leaves.");
    expect(JSON.parse(on.requests[1]?.body ?? "").messages.at(-1)).toEqual({ role: "assistant", content: "The boat " });
    expect(on.home.messages.message(stopped.reply)).toMatchObject({ state: "stopped" });
    expect(on.home.conversations.byId(stopped.conversation)?.tip).toBe(more.reply);
  });
});
