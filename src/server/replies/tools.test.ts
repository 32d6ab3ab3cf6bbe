import type { Server } from "node:http";
import type { AddressInfo } from "node:net";
import { setTimeout as wait } from "node:timers/promises";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { textOf, toolsIn } from "@/core/conversation/pieces";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Tool } from "@/core/tools/tool";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import growingArray from "@/core/wire/profiles/growing-array.json";
import namedEvents from "@/core/wire/profiles/named-events.json";
import { instant } from "@/standins/pace";
import { reedbed, sampleKey as reedKey } from "@/standins/shapes/reedbed";
import { sampleKey as saltKey, saltpan } from "@/standins/shapes/saltpan";
import { tidegate, sampleKey as tideKey } from "@/standins/shapes/tidegate";
import { serve } from "@/standins/standin";
import { numbered } from "../live/event-store";
import { TestApp } from "../test/app";
import { askingTwice, Desk } from "../test/desk";
import { plainWiring } from "../test/provider";
import { ask, bench } from "./ask";
import { recoverReplies } from "./recover";

const on = TestApp.each();
const servers: Server[] = [];
let desk: Desk;

beforeEach(async () => {
  desk = await Desk.start();
});
afterEach(() => {
  desk.stop();
  for (const server of servers.splice(0)) server.close();
});

/** Something that a test waits for. */
function moment(): { promise: Promise<void>; resolve: () => void } {
  let resolve = () => {};
  const promise = new Promise<void>((done) => {
    resolve = done;
  });
  return { promise, resolve };
}

const shapes = {
  Reedbed: { standIn: reedbed(), profile: chatCompletions, key: reedKey, model: "reed-deep" },
  Saltpan: { standIn: saltpan(), profile: namedEvents, key: saltKey, model: "pan-clear" },
  Tidegate: { standIn: tidegate(), profile: growingArray, key: tideKey, model: "tide-wide" },
};

/** Wires a stand-in, and lets the app speak through it, with tools. */
async function wire(name: keyof typeof shapes, more: { rounds?: number; tools?: Tool[] } = {}): Promise<void> {
  const { standIn, profile, key, model } = shapes[name];
  const server = serve(standIn, instant);
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  process.env[`KEY_OF_${name}`] = key;
  const { providers, apps } = on.home;
  const provider = providers.add(
    {
      ...plainWiring,
      name,
      address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
      profileText: JSON.stringify(profile),
      credential: { kind: "key", secret: { variable: `KEY_OF_${name}` } },
    },
    1,
  );
  providers.putModels(provider, [{ name: model, window: 8_000, price: { input: 2, output: 4, currency: "EUR" } }]);
  const slug = providers.byId(provider)?.slug ?? "";
  const content = on.content({ provider: slug, model, settings: { maxOutput: 400 }, tools: desk.tools(), ...more });
  apps.setDraft(on.app, content, 1);
}

/** Asks, and waits for the end. */
async function replied(message = askingTwice, conversation?: string) {
  const { reply, conversation: in_ } = ask(on.home, on.app, bench, { message, conversation });
  await on.home.hub.ended(reply);
  const stored = on.home.messages.message(reply);
  if (stored?.role !== "app") return expect.unreachable();
  return { ...stored, conversation: in_ };
}

describe.each(Object.keys(shapes) as (keyof typeof shapes)[])(
  "a reply that asks tools, through the shape of %s",
  (name) => {
    it("calls two in one round and one of them again in the next, and answers from what they said", async () => {
      await wire(name);
      const reply = await replied();
      expect(desk.asked).toEqual(['/fares {"place":"Brindle"}', "/tides {}", '/fares {"place":"Tansy Holm"}']);
      expect(toolsIn(reply)).toMatchObject([
        {
          round: 1,
          name: "fares",
          arguments: { place: "Brindle" },
          outcome: "answered",
          result: '{"price":"4.00","currency":"EUR"}',
        },
        { round: 1, name: "tides", arguments: {}, outcome: "answered", result: "High water is at 9:12." },
        { round: 2, name: "fares", arguments: { place: "Tansy Holm" }, outcome: "answered" },
      ]);
      expect(textOf(reply)).toMatch(/4\.00/);
      expect(textOf(reply)).toMatch(/6\.00/);
      expect(textOf(reply)).toMatch(/9:12/);
      expect(reply).toMatchObject({ state: "complete", reported: null, facts: { rounds: 2 } });
    });

    it("streams each call and its answer, and comes to the same for whoever comes back", async () => {
      await wire(name);
      const { id, pieces } = await replied();
      const events = on.eventsOf(id);
      const told = events.flatMap((each) => (each.event === "tool" ? `${each.data.name} ${each.data.outcome}` : []));
      expect(told).toEqual([
        "fares waiting",
        "tides waiting",
        "fares answered",
        "tides answered",
        "fares waiting",
        "fares answered",
      ]);
      expect(events.reduce(fold, emptyReply).pieces).toEqual(pieces);
      // what a tool said is found like any other word
      const found = on.home.database.prepare("SELECT count(*) FROM words WHERE words MATCH 'water'").pluck().get();
      expect(found).toBe(1);
    });

    it("is accounted for: each round has its dispatch and its ledger, and the reply what all of them used", async () => {
      await wire(name);
      const { id, facts } = await replied();
      const dispatches = on.home.dispatches.ofReply(id);
      expect(dispatches.map(({ round }) => round)).toEqual([1, 2, 3]);
      const usages = dispatches.map(({ usage }) => usage);
      const sum = (of: "input" | "output" | "price") =>
        Math.round(usages.reduce((all, usage) => all + (usage?.[of] ?? 0), 0) * 1e6) / 1e6;
      expect(facts.usage).toMatchObject({
        input: sum("input"),
        output: sum("output"),
        estimated: false,
        price: sum("price"),
      });
      for (const [at, { ledger }] of dispatches.entries()) {
        const carried = ledger?.entries.filter((entry) => entry.carried) ?? [];
        expect(carried.reduce((tokens, entry) => tokens + entry.tokens, 0)).toBe(ledger?.tokens);
        expect(carried.some((entry) => entry.part === "beside" && entry.kind === "exchange")).toBe(at > 0);
        expect(ledger?.holding?.counts.calls).toBe([0, 2, 3][at]);
      }
      const spent = on.home.database.prepare("SELECT sum(price) FROM spend").pluck().get() as number;
      expect(spent / 1e6).toBeCloseTo(sum("price"), 6);
    });

    it("is gone on with: the next message carries the exchange as that API wants it", async () => {
      await wire(name);
      const { conversation } = await replied();
      const next = await replied("Thank you. What did I ask first?", conversation);
      expect(next.state).toBe("complete");
      expect(on.home.dispatches.ofReply(next.id)[0]?.ledger?.holding?.counts.calls).toBe(3);
    });
  },
);

describe("a tool", () => {
  it("that hangs is cut off at its own limit, and the model is told so", async () => {
    desk.answer = async () => {
      await wait(5_000, undefined, { ref: false });
      return "late";
    };
    const [fares] = desk.tools(0.2);
    await wire("Reedbed", { tools: [fares] });
    const reply = await replied("What are the fares to Brindle?");
    expect(toolsIn(reply)).toMatchObject([{ outcome: "timed-out", result: "fares did not answer within 0.2 s." }]);
    expect(textOf(reply)).toContain("did not answer");
    expect(reply.state).toBe("complete");
  });

  it("is called no more often than there are rounds: that it is asked for once more is a problem with a name", async () => {
    await wire("Saltpan", { rounds: 1 });
    const reply = await replied();
    expect(reply).toMatchObject({ state: "failed", facts: { problem: { kind: "too-many-rounds" } } });
    expect(toolsIn(reply).map(({ name, outcome }) => [name, outcome])).toEqual([
      ["fares", "answered"],
      ["tides", "answered"],
    ]);
    expect(desk.asked).toHaveLength(2);
  });

  it("that is stopped while it works ends the reply at once, with what was there", async () => {
    const called = moment();
    desk.answer = async () => {
      called.resolve();
      await wait(5_000, undefined, { ref: false });
      return "late";
    };
    await wire("Tidegate");
    const { reply } = ask(on.home, on.app, bench, { message: askingTwice });
    await called.promise;
    await on.home.hub.stop(reply);
    const stored = on.home.messages.message(reply);
    expect(stored).toMatchObject({ state: "stopped" });
    expect(toolsIn(stored ?? { pieces: [] }).map(({ outcome }) => outcome)).toEqual(["stopped", "stopped"]);
  });

  it("was asked for before it is called, as far as anybody can read: what dies in between says so", async () => {
    const called = moment();
    desk.answer = () => {
      called.resolve();
      return new Promise(() => {});
    };
    await wire("Reedbed");
    const { reply } = ask(on.home, on.app, bench, { message: askingTwice });
    await called.promise;
    const written = on.home.hub.eventsOf(reply).map(numbered);
    expect(written.filter(({ event }) => event === "tool")).toHaveLength(2);
    // as a process that starts after this one died would find it
    recoverReplies(on.home);
    const stored = on.home.messages.message(reply);
    expect(stored).toMatchObject({ state: "interrupted" });
    expect(toolsIn(stored ?? { pieces: [] }).map(({ outcome }) => outcome)).toEqual(["unknown", "unknown"]);
  });

  it("that fails, or is not there, or does not take what it is given, is told to the model in words", async () => {
    const [fares] = desk.tools();
    const nowhere = { ...desk.at("/fares"), url: "http://127.0.0.1:1/fares" };
    await wire("Reedbed", { tools: [{ ...fares, answer: nowhere }] });
    const reply = await replied("What are the fares to Brindle?");
    expect(toolsIn(reply)).toMatchObject([
      { outcome: "failed", result: expect.stringContaining("could not be reached") },
    ]);
    expect(reply.state).toBe("complete");
  });

  it("leads to this machine only where that is allowed", async () => {
    const [fares] = desk.tools();
    const { allowsThisMachine: _allowed, ...guarded } = desk.at("/fares");
    await wire("Reedbed", { tools: [{ ...fares, answer: guarded }] });
    const reply = await replied("What are the fares to Brindle?");
    expect(toolsIn(reply)).toMatchObject([
      { outcome: "failed", result: expect.stringContaining("leads to this machine") },
    ]);
    expect(desk.asked).toEqual([]);
  });

  it("has its money held anew before each round: where the day has none left, the reply ends with what was there", async () => {
    await wire("Reedbed");
    // the first round fits into what is left of the day; once that is spent, a second one does not
    const access = { ...on.app.access, limits: { ...on.app.access.limits, day: 0.004 } };
    on.home.apps.setAccess(on.app, access);
    on.app = on.home.apps.byId(on.app.id) ?? on.app;
    desk.answer = async () => "x ".repeat(1_500);
    const reply = await replied();
    expect(reply.facts.problem?.kind).toBe("over-limit");
    expect(toolsIn(reply)).toHaveLength(2);
  });
});

describe("takes with tools", () => {
  it("are makings of their own, and what one asked stays with it", async () => {
    await wire("Reedbed");
    const { reply, further } = ask(on.home, on.app, bench, { message: askingTwice, count: 2 });
    await Promise.all([reply, ...further].map((each) => on.home.hub.ended(each)));
    const takes = [reply, ...further].map((id) => on.home.messages.message(id) ?? expect.unreachable());
    expect(takes.map((take) => toolsIn(take).length)).toEqual([3, 3]);
    expect(desk.asked).toHaveLength(6);
  });

  it("that ask for tools where none may be called end as a problem with a name, each for itself", async () => {
    const event = (index: number, delta: object, finish_reason: string | null = null) =>
      `data: ${JSON.stringify({ choices: [{ index, delta, finish_reason }] })}\n\n`;
    on.respond = (response) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      response.write(event(0, { content: "Aye." }) + event(0, {}, "stop"));
      const call = { index: 0, id: "c1", function: { name: "fares", arguments: "{}" } };
      response.end(`${event(1, { tool_calls: [call] })}${event(1, {}, "tool_calls")}data: [DONE]\n\n`);
    };
    const { reply, further } = ask(on.home, on.app, bench, { message: "Hello", count: 2 });
    await Promise.all([reply, ...further].map((each) => on.home.hub.ended(each)));
    expect(on.home.messages.message(reply)).toMatchObject({ state: "complete" });
    expect(on.home.messages.message(further[0] ?? "")).toMatchObject({
      state: "failed",
      facts: { problem: { kind: "only-tools", detail: expect.stringContaining("fares") } },
    });
  });
});
