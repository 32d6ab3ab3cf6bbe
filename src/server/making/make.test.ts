import type { ServerResponse } from "node:http";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import { problem } from "@/core/problem/problem";
import type { LastEvent } from "@/core/reply/events";
import { bodyOf, TestProvider } from "../test/provider";
import { make } from "./make";
import { delta, events, finish, means, Notebook, orderOf, speakerAt, stream } from "./test/notebook";
import type { Order, Speaker } from "./types";

let server: TestProvider;
let notes: Notebook;
let bodies: Record<string, unknown>[] = [];
let respond: (response: ServerResponse, call: number) => void;

beforeEach(async () => {
  notes = new Notebook();
  bodies = [];
  server = await TestProvider.start(async (request, response) => {
    bodies.push(JSON.parse(await bodyOf(request)));
    respond(response, bodies.length);
  });
});
afterEach(() => server.stop());

const speaker = (model?: string, change?: Partial<Speaker["connection"]>) => speakerAt(server.address, model, change);
const order = (more?: Partial<Order>) => orderOf(speaker(), more);

const stopped: LastEvent = { event: "end", data: { reason: "stopped" } };

describe("words of a model", () => {
  it("go to the sink as they come, with the dispatch before and after them", async () => {
    respond = (response) => stream(response, events(delta("Aye, "), delta("it runs."), finish("stop")));
    const { made } = make(order(), notes, means());
    expect(await made).toMatchObject({
      speaker: { provider: "p", model: "m" },
      takes: [{ pieces: piecesOf("Aye, it runs."), last: { event: "end", data: { reason: "complete" } } }],
      attempts: 1,
      failures: [],
      usage: { estimated: true },
    });
    expect(notes.said).toEqual([
      [0, "text", "Aye, "],
      [0, "text", "it runs."],
    ]);
    expect(notes.begun).toMatchObject([
      { round: 1, attempt: 1, request: { headers: { authorization: "Bearer ••••" } } },
    ]);
    expect(notes.ended).toMatchObject([{ id: notes.begun[0]?.id, status: 200, outcome: { event: "end" } }]);
    expect(notes.bytesOf.get(notes.begun[0]?.id ?? "")).toContain("it runs.");
  });

  it("come in several takes from one call, each with an end of its own", async () => {
    respond = (response) =>
      stream(
        response,
        events(delta("Aye.", 0), delta("Yes, ", 1), delta("it runs.", 1), finish("stop", 0), finish("length", 1)),
      );
    const { takes } = await make(order({ takes: 2 }), notes, means()).made;
    expect(bodies[0]).toMatchObject({ n: 2 });
    expect(takes).toMatchObject([
      { pieces: piecesOf("Aye."), last: { data: { reason: "complete" } } },
      { pieces: piecesOf("Yes, it runs."), last: { data: { reason: "length" } } },
    ]);
    expect(notes.begun).toHaveLength(1);
  });

  it("come one after another too, and are fewer where the API gives fewer", async () => {
    const [first, second] = [
      [delta("Aye", 0), finish("stop", 0)],
      [delta("Nay", 1), finish("stop", 1)],
    ];
    respond = (response) => stream(response, events(...first, ...second));
    const { takes } = await make(order({ takes: 2 }), notes, means()).made;
    expect(takes.map(textOf)).toEqual(["Aye", "Nay"]);
    respond = (response) => stream(response, events(...first));
    const fewer = await make(order({ takes: 2 }), new Notebook(), means()).made;
    expect(fewer.takes).toMatchObject([{ pieces: piecesOf("Aye") }, { pieces: piecesOf("") }]);
  });

  it("are gathered for each speaker anew, however long that takes", async () => {
    respond = (response, call) =>
      call === 1 ? response.writeHead(500).end("{}") : stream(response, events(delta("Aye."), finish("stop")));
    const gathered: string[] = [];
    const gather: Order["gather"] = async (each) => {
      await new Promise(setImmediate);
      gathered.push(each.model.name);
      const messages = [{ role: "visitor" as const, pieces: piecesOf(`For ${each.model.name}`) }];
      return each.model.name === "small"
        ? { kind: "refused", problem: problem("too-long", "Too long.") }
        : { kind: "ready", messages, ledger: null };
    };
    const speakers = [speaker("m"), speaker("small"), speaker("n")] as const;
    const made = await make(order({ speakers, gather }), notes, means()).made;
    expect(gathered).toEqual(["m", "small", "n"]);
    expect(made).toMatchObject({ speaker: { model: "n" }, attempts: 2, takes: [{ pieces: piecesOf("Aye.") }] });
    expect(made.failures.map(({ model, problem: { kind } }) => [model, kind])).toEqual([
      ["m", "overloaded"],
      ["small", "too-long"],
    ]);
    expect(notes.announced.map(({ model, because }) => [model, because.kind])).toEqual([
      ["small", "overloaded"],
      ["n", "too-long"],
    ]);
  });

  it("are asked for with another token where the first was refused, and its going is seen", async () => {
    respond = (response, call) =>
      call === 1 ? response.writeHead(401).end("{}") : stream(response, events(delta("Aye."), finish("stop")));
    let forgotten = 0;
    const withToken = means({
      hasToken: () => forgotten === 0,
      forget: () => {
        forgotten += 1;
        return true;
      },
    });
    expect(await make(order(), notes, withToken).made).toMatchObject({
      attempts: 2,
      takes: [{ pieces: piecesOf("Aye.") }],
    });
    expect(forgotten).toBe(1);
  });

  it("are not asked for again once some have shown", async () => {
    respond = (response) => {
      stream(response, events(delta("Half a ")), false);
      setImmediate(() => response.destroy());
    };
    const made = await make(order({ speakers: [speaker("m", { retries: 2 }), speaker("n")] }), notes, means()).made;
    expect(made).toMatchObject({
      attempts: 1,
      takes: [{ pieces: piecesOf("Half a "), last: { data: { kind: "broken-off" } } }],
    });
  });
});

describe("a provider that takes one call at once", () => {
  const held: ServerResponse[] = [];
  beforeEach(() => {
    held.length = 0;
    respond = (response) => {
      held.push(response);
      stream(response, events(delta("Aye")), false);
    };
  });

  it("gets the second when the first has ended, and the wait is shown", async () => {
    const shared = means();
    const speakers = [speaker("m", { atOnce: 1 })] as const;
    const first = make(order({ speakers }), new Notebook(), shared);
    await expect.poll(() => held.length).toBe(1);
    const second = make(order({ speakers }), notes, shared);
    await expect.poll(() => notes.announced[0]?.because.kind).toBe("at-capacity");
    expect(held).toHaveLength(1);
    held[0]?.end(`${events(finish("stop"))}data: [DONE]\n\n`);
    await first.made;
    await expect.poll(() => held.length).toBe(2);
    held[1]?.end(`${events(finish("stop"))}data: [DONE]\n\n`);
    expect(await second.made).toMatchObject({ attempts: 1, takes: [{ pieces: piecesOf("Aye") }] });
  });

  it("never gets one that was stopped while it waited", async () => {
    const shared = means();
    const speakers = [speaker("m", { atOnce: 1 })] as const;
    const first = make(order({ speakers }), new Notebook(), shared);
    await expect.poll(() => held.length).toBe(1);
    const second = make(order({ speakers }), notes, shared);
    await expect.poll(() => notes.announced.length).toBe(1);
    await second.stop(stopped);
    expect(await second.made).toMatchObject({ attempts: 0, takes: [{ pieces: piecesOf(""), last: stopped }] });
    await first.stop(stopped);
    expect(await first.made).toMatchObject({ takes: [{ pieces: piecesOf("Aye"), last: stopped }] });
    expect([held.length, notes.begun.length]).toEqual([1, 0]);
  });
});

describe("a making that is stopped", () => {
  it("while it gathers makes no call", async () => {
    let go = () => {};
    const gather: Order["gather"] = async () => {
      await new Promise<void>((resolve) => {
        go = resolve;
      });
      return { kind: "ready", messages: [], ledger: null };
    };
    const making = make(order({ gather }), notes, means());
    await making.stop(stopped);
    go();
    expect(await making.made).toMatchObject({ attempts: 0, takes: [{ last: stopped }] });
    expect(bodies).toEqual([]);
  });

  it("ends with what it was stopped with, after the connection is closed", async () => {
    let isGone = false;
    respond = (response) => {
      stream(response, events(delta("Aye")), false);
      response.on("close", () => {
        isGone = true;
      });
    };
    const making = make(order(), notes, means());
    await expect.poll(() => notes.said.length).toBe(1);
    await making.stop(stopped);
    expect(await making.made).toMatchObject({ takes: [{ pieces: piecesOf("Aye"), last: stopped }] });
    await expect.poll(() => isGone).toBe(true);
    expect(notes.ended).toMatchObject([{ outcome: stopped }]);
  });

  it("rejects over an error of our own, and leaves no call behind", async () => {
    respond = (response) => stream(response, events(delta("Aye")), false);
    notes.say = () => {
      throw new Error("the sink broke");
    };
    await expect(make(order(), notes, means()).made).rejects.toThrow("the sink broke");
  });

  it("that ask for tools are as many rounds as there may be, each once what was asked for is written", async () => {
    const call = (to: string) => ({
      index: 0,
      delta: { tool_calls: [{ index: 0, id: `c-${to}`, function: { name: "fares", arguments: `{"to":"${to}"}` } }] },
      finish_reason: null,
    });
    respond = (response, at) =>
      stream(
        response,
        at === 3 ? events(delta("4.00"), finish("stop")) : events(call(`quay ${at}`), finish("tool_calls")),
      );
    const called: unknown[] = [];
    const tools = {
      offered: [{ name: "fares", description: "What it costs.", parameters: {} }],
      rounds: 5,
      together: 1,
      answerers: new Map(),
      firstRound: 1,
      call: async ({ arguments: given }: { arguments: unknown }) => {
        called.push(given);
        return { outcome: "answered" as const, result: "4.00" };
      },
    };
    const gathered: number[] = [];
    const gather: Order["gather"] = (_speaker, { pieces }) => {
      gathered.push(pieces.length);
      return {
        kind: "ready",
        messages: [
          { role: "visitor", pieces: piecesOf("Hello") },
          ...(pieces.length > 0 ? [{ role: "app" as const, pieces: [...pieces] }] : []),
        ],
        ledger: null,
      };
    };
    const made = await make(order({ tools, gather }), notes, means()).made;
    expect(called).toEqual([{ to: "quay 1" }, { to: "quay 2" }]);
    expect([made.rounds, made.attempts, gathered]).toEqual([2, 3, [0, 1, 2]]);
    expect(textOf(made.takes[0])).toBe("4.00");
    // each call was told, and then asked whether that is written, before it was made
    expect(notes.settledAt).toEqual([1, 3]);
    expect(bodies[1]?.messages).toMatchObject([
      { role: "user" },
      { role: "assistant" },
      { role: "tool", content: "4.00" },
    ]);
  });

  it("that are cut in the middle of asking for a tool ask for nothing", async () => {
    const half = { tool_calls: [{ index: 0, id: "c", function: { name: "fares", arguments: '{"to":"Bri' } }] };
    respond = (response) => stream(response, events({ index: 0, delta: half, finish_reason: null }, finish("length")));
    const call = () => expect.unreachable("it is not called");
    const tools = { offered: [], rounds: 5, together: 1, answerers: new Map(), firstRound: 1, call };
    const { takes } = await make(order({ tools }), notes, means()).made;
    expect(takes[0]).toMatchObject({ pieces: [], thought: "", last: { event: "end", data: { reason: "length" } } });
  });
});
