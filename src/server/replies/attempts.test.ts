import type { ServerResponse } from "node:http";
import { describe, expect, it } from "vitest";
import { toldAll } from "@/core/reply/told";
import { wholeAnswer } from "../answers/replies";
import { streams, TestApp } from "../test/app";
import { ask, bench } from "./ask";

const on = TestApp.each();

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
    const stored = on.home.providers.byId(on.provider);
    if (stored) on.home.providers.change(on.provider, { ...stored, retries });
  };
  const attemptsOf = (reply: string) => on.home.dispatches.ofReply(reply).map(({ outcome }) => outcome?.data);

  it("is made again, each attempt a dispatch of its own, and readers are told", async () => {
    retrying(2);
    on.respond = failingFirst(2, (response) => response.writeHead(503).end("{}"));
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    expect((await wholeAnswer(on.home, reply, toldAll)).text).toBe("Aye.");
    expect(attemptsOf(reply)).toMatchObject([{ kind: "overloaded" }, { kind: "overloaded" }, { reason: "complete" }]);
    const events = on.eventsOf(reply).map(({ event }) => event);
    expect(events).toEqual(["reply", "attempt", "attempt", "text", "usage", "end"]);
    expect(on.home.messages.message(reply)).toMatchObject({ facts: { attempts: 3, failures: [{}, {}] } });
  });

  it("waits as long as the provider asks for", async () => {
    retrying(1);
    on.respond = failingFirst(1, (response) => response.writeHead(429, { "retry-after": "1" }).end("{}"));
    const started = performance.now();
    await wholeAnswer(on.home, ask(on.home, on.app, bench, { message: "Hello" }).reply, toldAll);
    expect(performance.now() - started).toBeGreaterThanOrEqual(1000);
    expect(on.requests).toHaveLength(2);
  });

  it("is not made again where that makes no sense, nor more often than it may", async () => {
    retrying(1);
    on.respond = failingFirst(9, (response) => response.writeHead(403).end("{}"));
    await on.home.hub.ended(ask(on.home, on.app, bench, { message: "Hello" }).reply);
    expect(on.requests).toHaveLength(1);
    on.respond = failingFirst(9, (response) => response.writeHead(503).end("{}"));
    await on.home.hub.ended(ask(on.home, on.app, bench, { message: "Hello" }).reply);
    expect(on.requests).toHaveLength(3);
  });

  it("is never made again once text has shown", async () => {
    retrying(2);
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write('data: {"choices":[{"delta":{"content":"Half a"}}]}\n\n');
      setTimeout(() => response.destroy(), 30);
    };
    await on.home.hub.ended(ask(on.home, on.app, bench, { message: "Hello" }).reply);
    expect(on.requests).toHaveLength(1);
  });

  it("can be stopped while it waits", async () => {
    retrying(2);
    on.respond = failingFirst(9, (response) => response.writeHead(429, { "retry-after": "30" }).end("{}"));
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    await expect.poll(() => on.home.hub.standing(reply)?.next?.after).toBe(30);
    await on.home.hub.stop(reply);
    expect(on.home.messages.message(reply)).toMatchObject({ state: "stopped" });
    expect(on.requests).toHaveLength(1);
  });

  it("goes on to a fallback, with its own window, and the reply says which and why", async () => {
    const other = on.home.providers.add(
      { ...(on.home.providers.byId(on.provider) as never as object), name: "Other" } as never,
      2,
    );
    const price = { input: 0, output: 0, currency: "EUR" };
    on.home.providers.putModels(other, [
      { name: "small", window: 20, price },
      { name: "large", window: 900, price },
    ]);
    const fallbacks = [
      { provider: "other", model: "small" },
      { provider: "other", model: "large" },
    ];
    on.respond = (response, body) =>
      JSON.parse(body).model === "m" ? response.writeHead(500).end("{}") : streams(["From the other."])(response);
    on.home.apps.setDraft(on.app, on.content({ fallbacks }), 1);
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    expect(await wholeAnswer(on.home, reply, toldAll)).toMatchObject({
      text: "From the other.",
      provider: "other",
      model: "large",
    });
    expect(on.home.messages.message(reply)).toMatchObject({
      facts: {
        insteadOf: { provider: "test", model: "m" },
        failures: [
          { model: "m", problem: { kind: "overloaded" } },
          { model: "small", problem: { kind: "too-long" } },
        ],
      },
    });
    expect(on.home.dispatches.ofReply(reply).map(({ model, ledger }) => [model, ledger?.window])).toEqual([
      ["m", 500],
      ["large", 900],
    ]);
  });

  it("is paid for at the price of who answered, also where another provider has a model of that name", async () => {
    const { providers, apps } = on.home;
    const other = providers.add({ ...(providers.byId(on.provider) as never as object), name: "Other" } as never, 2);
    // only what comes in has a price there, and only what goes out here
    providers.putModels(other, [{ name: "m", window: 500, price: { input: 1_000_000, output: 0, currency: "EUR" } }]);
    providers.putModels(on.provider, [
      { name: "m", window: 500, price: { input: 0, output: 1_000_000, currency: "EUR" } },
    ]);
    let calls = 0;
    on.respond = (response) => {
      calls += 1;
      if (calls === 1) return response.writeHead(500).end("{}");
      response.writeHead(200, { "content-type": "text/event-stream" });
      for (const [index, content] of ["Aye.", "Aye, at 9:40, from Mill Quay."].entries())
        for (const choice of [
          { index, delta: { content } },
          { index, delta: {}, finish_reason: "stop" },
        ])
          response.write(`data: ${JSON.stringify({ choices: [choice] })}\n\n`);
      response.end('data: {"choices":[],"usage":{"prompt_tokens":30,"completion_tokens":20}}\n\ndata: [DONE]\n\n');
    };
    apps.setDraft(on.app, on.content({ fallbacks: [{ provider: "other", model: "m" }] }), 1);
    const first = ask(on.home, on.app, bench, { message: "Hello" });
    await on.home.hub.ended(first.reply);
    calls = 0;
    const { reply, further } = ask(on.home, on.app, bench, { again: first.message, count: 2 });
    await Promise.all([reply, ...further].map((each) => on.home.hub.ended(each)));
    const prices = [reply, ...further].map((each) => {
      const made = on.home.messages.message(each);
      return made?.role === "app" ? made.facts.usage?.price : undefined;
    });
    expect(prices).toEqual([15, 15]);
  });
});
