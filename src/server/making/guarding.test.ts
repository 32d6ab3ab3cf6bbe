import type { ServerResponse } from "node:http";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { VisitorMessage } from "@/core/conversation/message";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import { noSum } from "@/core/conversation/sum";
import type { Guard } from "@/core/guards/guard";
import { sent, shown } from "@/core/guards/test/parts";
import type { Content } from "@/core/revision/content";
import { countsOf } from "@/core/tokens/counts";
import { bodyOf, plainWiring, TestProvider } from "../test/provider";
import { guardsOf, masked } from "./guarding";
import { make } from "./make";
import { orderFor } from "./order";
import { delta, events, finish, means, Notebook, orderOf, speakerAt, stream } from "./test/notebook";
import type { Order, OrderGuards } from "./types";

let server: TestProvider;
let notes: Notebook;
let bodies: string[] = [];
let respond: (response: ServerResponse, call: number) => void;

beforeEach(async () => {
  notes = new Notebook();
  bodies = [];
  server = await TestProvider.start(async (request, response) => {
    bodies.push(await bodyOf(request));
    respond(response, bodies.length);
  });
});
afterEach(() => server.stop());

/** An order for a reply to a message, on a content with guards. */
function guarded(guards: Guard[], message = "Hello", judge?: OrderGuards["judge"], more: Partial<Order> = {}): Order {
  const content: Content = {
    prompt: "You are Quay Desk.",
    variables: {},
    provider: "p",
    model: "m",
    settings: {},
    memory: { kind: "everything" },
    guards,
  };
  const messages = [{ role: "visitor" as const, pieces: piecesOf(message) }];
  return orderOf(speakerAt(server.address, "m", { ...plainWiring, address: server.address }), {
    gather: () => masked({ kind: "ready", messages, ledger: null }, guards, [content.prompt]),
    guards: guardsOf(content, message, { variables: {}, now: 0, judge }),
    ...more,
  });
}

const says = (...parts: string[]) => {
  respond = (response) => stream(response, events(...parts.map((part) => delta(part)), finish("stop")));
};
/** All that a sink was told, as one text. */
const all = (of: Notebook) => JSON.stringify([of.said, of.ended, [...of.bytesOf]]);

const words: Guard["looksFor"] = { kind: "words", words: ["moonbeam"] };
const emails: Guard["looksFor"] = { kind: "personal", kinds: ["e-mail"] };

describe("guards before sending", () => {
  it("answer instead of the model where they refuse, and nobody is called", async () => {
    respond = () => expect.unreachable("it is not called");
    const rule = sent(words, "refuse", { says: "Not about that." });
    const made = await make(guarded([rule], "a Moonbeam"), notes, means()).made;
    expect(made).toMatchObject({
      attempts: 0,
      takes: [
        {
          pieces: piecesOf("Not about that."),
          caught: [{ guard: rule.name, on: "sent", does: "refuse", what: "words", times: 1 }],
          last: { data: { reason: "refused" } },
        },
      ],
    });
    expect(notes.begun).toEqual([]);
    expect(notes.said).toEqual([[0, "text", "Not about that."]]);
  });

  it("answer each of several takes where they refuse", async () => {
    respond = () => expect.unreachable("it is not called");
    const { takes } = await make(guarded([sent(words, "refuse")], "moonbeam", undefined, { takes: 3 }), notes, means())
      .made;
    expect(takes.map(textOf)).toEqual(Array.from({ length: 3 }, () => "I can't help with that here."));
    expect(notes.said.map(([take]) => take)).toEqual([0, 1, 2]);
  });

  it("mask what goes out, in the request that is kept too, and put it back for the reader and for tools", async () => {
    respond = (response, call) =>
      call === 1
        ? stream(
            response,
            events(
              delta("I'll write to [e-ma"),
              delta("il #1]."),
              {
                index: 0,
                delta: {
                  tool_calls: [{ index: 0, id: "c1", function: { name: "book", arguments: '{"to":"[e-mail #1]"}' } }],
                },
                finish_reason: null,
              },
              finish("tool_calls"),
            ),
          )
        : stream(response, events(delta("Done."), finish("stop")));
    const given: unknown[] = [];
    const call = async (asked: { arguments: unknown }) => {
      given.push(asked.arguments);
      return { outcome: "answered" as const, result: "sent to ann@quay.example" };
    };
    const tools = { offered: [], rounds: 2, together: 1, answerers: new Map(), firstRound: 1, call };
    const rules = [sent(emails, "mask", { putsBack: true })];
    const { takes } = await make(guarded(rules, "I'm ann@quay.example", undefined, { tools }), notes, means()).made;
    expect(bodies[0]).toContain("I'm [e-mail #1]");
    expect(bodies.join("")).not.toContain("ann@quay");
    expect(notes.begun.map(({ request }) => request.body).join("")).not.toContain("ann@quay");
    expect(given).toEqual([{ to: "ann@quay.example" }]);
    expect(textOf(takes[0])).toBe("I'll write to ann@quay.example.Done.");
    expect(takes[0].caught).toMatchObject([{ on: "sent", does: "mask", what: "e-mail", times: 1 }]);
  });

  it("leave the mark in the reply where nothing is put back", async () => {
    says("To [e-mail #1]?");
    const { takes } = await make(guarded([sent(emails)], "I'm ann@quay.example"), notes, means()).made;
    expect(textOf(takes[0])).toBe("To [e-mail #1]?");
  });

  it("mask what a call gives for a variable of the prompt, and nothing of the prompt's own", async () => {
    const content: Content = {
      prompt: "You are desk@quay.example. You speak with {{name}}.",
      variables: {},
      provider: "p",
      model: "m",
      settings: {},
      memory: { kind: "everything" },
      guards: [sent(emails)],
    };
    const message: VisitorMessage = {
      id: "msg_1",
      parent: null,
      turn: 1,
      role: "visitor",
      pieces: piecesOf("Hello"),
      counts: countsOf("Hello"),
      soFar: noSum,
      at: 0,
    };
    const order = orderFor({
      content,
      variables: { name: "ann@quay.example" },
      settings: {},
      line: { lastTurns: () => [message], above: () => [], clears: [], pinned: [], summaries: [] },
      speakers: [speakerAt(server.address)],
      rank: "bench",
      takes: 1,
      begun: { text: "", rounds: 0 },
      call: () => expect.unreachable(),
      find: () => [],
      now: 0,
    });
    says("Aye.");
    await make(order, notes, means()).made;
    expect(bodies[0]).toContain("You are desk@quay.example. You speak with [e-mail #1].");
  });

  it("never send what was refused when it was said, with a later message", () => {
    const rules = [sent(words, "refuse"), sent({ kind: "length", most: 20 }, "refuse")];
    const messages = [
      { role: "visitor" as const, pieces: piecesOf("a moonbeam") },
      { role: "app" as const, pieces: piecesOf("I can't.") },
      { role: "visitor" as const, pieces: piecesOf("much longer than may be said here") },
      { role: "visitor" as const, pieces: piecesOf("Hello") },
    ];
    const context = masked({ kind: "ready", messages, ledger: null }, rules, []);
    expect(context.kind === "ready" && context.messages.map(textOf)).toEqual([
      "a [hidden #1]",
      "I can't.",
      "[hidden #2]",
      "Hello",
    ]);
  });
});

describe("guards before showing", () => {
  it("mask what a model says, wherever it is cut, and keep none of the bytes that say it", async () => {
    says("Under the moon", "be", "am at ten");
    const made = await make(guarded([shown(words)]), notes, means()).made;
    expect(textOf(made.takes[0])).toBe("Under the [hidden] at ten");
    expect(all(notes)).not.toMatch(/moonbe|beam/);
    expect(notes.ended[0]?.notes).toEqual([{ kind: "guarded" }]);
    expect(made.takes[0].caught).toMatchObject([{ on: "shown", does: "mask", what: "words", times: 1 }]);
    expect(made.carry).toEqual([]);
  });

  it("keep all bytes of an answer in which nothing is found", async () => {
    says("Under the ", "moon.");
    await make(guarded([shown(words)]), notes, means()).made;
    expect([...notes.bytesOf.values()].join("")).toContain("moon.");
    expect(notes.ended[0]?.notes).toEqual([]);
  });

  it("refuse the rest with words of their own, and leave the provider", async () => {
    respond = (response) => stream(response, events(delta("At ten. The moonbeam"), delta(" is bright")), false);
    const rule = shown(words, "refuse", { says: "I'd rather not." });
    const { takes } = await make(guarded([rule]), notes, means()).made;
    expect(textOf(takes[0])).toBe("At ten. The \n\nI'd rather not.");
    expect(takes[0].last).toEqual({ event: "end", data: { reason: "refused" } });
    expect(all(notes)).not.toContain("moonbeam");
  });

  it("look at what a provider says of its own failure", async () => {
    respond = (response) =>
      response.writeHead(400, { "content-type": "application/json" }).end('{"error":{"message":"no moonbeam here"}}');
    const { takes } = await make(guarded([shown(words)]), notes, means()).made;
    expect(takes[0].last).toMatchObject({
      event: "problem",
      data: { detail: expect.stringContaining("no [hidden] here") },
    });
    expect(all(notes)).not.toContain("moonbeam");
  });

  it("look at what tools are asked and at what they say", async () => {
    const asks = (text: string) => ({
      index: 0,
      delta: { tool_calls: [{ index: 0, id: "c1", function: { name: "look", arguments: JSON.stringify({ text }) } }] },
      finish_reason: null,
    });
    respond = (response, call) =>
      stream(
        response,
        call === 1 ? events(asks("a moonbeam"), finish("tool_calls")) : events(delta("Aye"), finish("stop")),
      );
    const given: unknown[] = [];
    const call = async (asked: { arguments: unknown }) => {
      given.push(asked.arguments);
      return { outcome: "answered" as const, result: "no moonbeam today" };
    };
    const tools = { offered: [], rounds: 2, together: 1, answerers: new Map(), firstRound: 1, call };
    const { takes } = await make(guarded([shown(words)], "Hello", undefined, { tools }), notes, means()).made;
    expect(given).toEqual([{ text: "a [hidden]" }]);
    expect(takes[0].pieces[0]).toMatchObject({ arguments: { text: "a [hidden]" }, result: "no [hidden] today" });
    expect(takes[0].caught).toMatchObject([{ what: "words", times: 2 }]);

    bodies = [];
    notes = new Notebook();
    const refusing = guarded([shown(words, "refuse")], "Hello", undefined, {
      tools: { ...tools, call: () => expect.unreachable() },
    });
    const made = await make(refusing, notes, means()).made;
    expect(made.takes[0]).toMatchObject({
      pieces: piecesOf("I can't help with that here."),
      last: { data: { reason: "refused" } },
    });
  });

  it("only mark, and hold nothing back", async () => {
    says("a moon", "beam");
    const { takes } = await make(guarded([shown(words, "mark")]), notes, means()).made;
    expect(notes.said.map(([, , text]) => text)).toEqual(["a moon", "beam"]);
    expect(takes[0].caught).toMatchObject([{ does: "mark", times: 1 }]);
    expect([...notes.bytesOf.values()].join("")).toContain("beam");
  });
});

describe("judges before showing", () => {
  const rule = shown({ kind: "judge", rubric: "is kind", by: { provider: "p", model: "j" } }, "refuse");

  it("see the whole reply before anybody does", async () => {
    says("Aye, ", "at ten.");
    const asked: string[] = [];
    const judge: OrderGuards["judge"] = async (_guard, text) => {
      asked.push(text);
      expect(notes.said).toEqual([]);
      expect(notes.ended).toEqual([]);
      return "meets";
    };
    const { takes } = await make(guarded([rule], "Hello", judge), notes, means()).made;
    expect(asked).toEqual(["Aye, at ten."]);
    expect(notes.said.map(([, , text]) => text).join("")).toBe("Aye, at ten.");
    expect(textOf(takes[0])).toBe("Aye, at ten.");
    expect(notes.ended).toHaveLength(1);
    expect([...notes.bytesOf.values()].join("")).toContain("at ten.");
  });

  it.each(["misses", null] as const)("keep it back where they say %s", async (verdict) => {
    says("Never, you fool.");
    const { takes } = await make(
      guarded([rule], "Hello", async () => verdict),
      notes,
      means(),
    ).made;
    expect(notes.said.map(([, , text]) => text)).toEqual(["I can't help with that here."]);
    expect(takes[0]).toMatchObject({
      pieces: piecesOf("I can't help with that here."),
      caught: [{ what: "judge", does: "refuse" }],
      last: { data: { reason: "refused" } },
    });
    expect(all(notes)).not.toContain("fool");
    expect(notes.ended[0]?.notes).toEqual([{ kind: "guarded" }]);
  });

  it("that only mark are asked once all of it was shown", async () => {
    says("Never, ", "you fool.");
    const marks = { ...rule, does: "mark" as const };
    const judge: OrderGuards["judge"] = async () => {
      expect(notes.said.map(([, , text]) => text)).toEqual(["Never, ", "you fool."]);
      return "misses";
    };
    const { takes } = await make(guarded([marks], "Hello", judge), notes, means()).made;
    expect(textOf(takes[0])).toBe("Never, you fool.");
    expect(takes[0].caught).toMatchObject([{ what: "judge", does: "mark", times: 1 }]);
    expect([...notes.bytesOf.values()].join("")).toContain("fool");
  });

  it("say nothing of an attempt that failed before any text, and see the next", async () => {
    respond = (response, call) =>
      call === 1 ? response.writeHead(500).end("{}") : stream(response, events(delta("Aye."), finish("stop")));
    const asked: string[] = [];
    const judge: OrderGuards["judge"] = async (_guard, text) => {
      asked.push(text);
      return "meets";
    };
    const speakers = [speakerAt(server.address), speakerAt(server.address, "n")] as const;
    const { takes } = await make(guarded([rule], "Hello", judge, { speakers }), notes, means()).made;
    expect([asked, textOf(takes[0])]).toEqual([["Aye."], "Aye."]);
    expect(notes.ended.map(({ outcome }) => outcome.event)).toEqual(["problem", "end"]);
  });

  it("are asked no more once it was stopped: nothing of it is shown", async () => {
    says("Never, you fool.");
    const stopped = { event: "end", data: { reason: "stopped" } } as const;
    const making = make(
      guarded([rule], "Hello", async () => {
        void making.stop(stopped);
        return "meets";
      }),
      notes,
      means(),
    );
    const { takes } = await making.made;
    expect(takes[0]).toMatchObject({ pieces: [], last: stopped });
    expect(all(notes)).not.toContain("fool");
  });
});
