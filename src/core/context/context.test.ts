import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { AppMessage, Message } from "../conversation/message";
import { turnsOf } from "../conversation/turns";
import type { ReplyState } from "../reply/reply";
import type { Content } from "../revision/revision";
import { uncalibrated } from "../tokens/calibration";
import { assemble, type Gathered } from "./assemble";
import { reach } from "./reach";
import { slipsOf } from "./slips";

const content: Content = {
  prompt: "You are the desk.",
  variables: {},
  provider: "p",
  model: "m",
  settings: { maxOutput: 100 },
  memory: { kind: "everything" },
};

type Said = string | [state: ReplyState, text: string];

/** A line from alternating visitor's words and replies. */
function line(...said: Said[]): Message[] {
  return said.map((each, depth) => {
    const base = { id: `m${depth}`, parent: depth ? `m${depth - 1}` : null, depth, tokens: 10, at: 0 };
    if (depth % 2 === 0) return { ...base, role: "visitor", pieces: [{ kind: "text", text: String(each) }] };
    const [state, text] = typeof each === "string" ? (["complete", each] as const) : each;
    const facts = { revision: 1, provider: "p", model: "m" };
    return {
      ...base,
      role: "app",
      state,
      continues: null,
      facts,
      pieces: [{ kind: "text", text }],
    } satisfies AppMessage;
  });
}

const gathered = (more: Partial<Gathered>): Gathered => ({
  content,
  line: line("Hello"),
  variables: {},
  window: 1000,
  calibration: uncalibrated,
  now: 0,
  ...more,
});

const carriedIds = (messages: Message[]) =>
  reach(messages, content.memory)
    .filter(({ carried }) => carried)
    .map(({ message }) => message.id);

describe("the reach when everything is remembered", () => {
  it("is the whole line", () => {
    expect(carriedIds(line("I'm on the 9:40", "Noted.", "Which boat?"))).toEqual(["m0", "m1", "m2"]);
  });

  it.each(["failed", "interrupted", "stopped", "refused"] as const)(
    "leaves out a turn whose reply %s without a word",
    (state) => {
      const messages = line("One?", "Yes.", "Two?", [state, " "], "Three?");
      expect(carriedIds(messages)).toEqual(["m0", "m1", "m4"]);
      expect(reach(messages, content.memory)[2]?.why).toMatch(/no answer/);
    },
  );

  it("carries what came of a reply that broke off", () => {
    expect(carriedIds(line("One?", ["failed", "It is"], "Two?"))).toEqual(["m0", "m1", "m2"]);
  });

  it("counts a reply that is still arriving as carried next time", () => {
    expect(carriedIds(line("One?", ["waiting", ""]))).toEqual(["m0", "m1"]);
  });

  it("never has two messages of one role in a row, whatever failed before", () => {
    const state = fc.constantFrom<ReplyState>("complete", "cut", "stopped", "failed", "interrupted", "refused");
    const text = fc.constantFrom("", "words", "  ");
    fc.assert(
      fc.property(fc.array(fc.tuple(state, text), { maxLength: 8 }), (replies) => {
        const messages = line(...replies.flatMap((reply) => ["Hm?", reply] as Said[]), "Last?");
        const sent = assemble(gathered({ line: messages }));
        expect(sent.kind).toBe("ready");
        if (sent.kind === "ready") expect(slipsOf(sent.messages)).toEqual([]);
      }),
    );
  });
});

describe("assembling a context", () => {
  it("puts the filled prompt first and accounts for every part", () => {
    const sent = assemble(
      gathered({ content: { ...content, prompt: "At {{desk}}." }, variables: { desk: "Mill Quay" } }),
    );
    expect(sent).toMatchObject({
      kind: "ready",
      messages: [
        { role: "system", text: "At Mill Quay." },
        { role: "visitor", text: "Hello" },
      ],
      ledger: {
        entries: [
          { part: "prompt", carried: true },
          { part: "message", message: "m0", tokens: 14 },
        ],
        window: 1000,
      },
    });
  });

  it("sends no system message for an empty prompt", () => {
    const sent = assemble(gathered({ content: { ...content, prompt: "  " } }));
    expect(sent).toMatchObject({ kind: "ready", messages: [{ role: "visitor", text: "Hello" }] });
  });

  it("puts the estimate right by what was learned of the model", () => {
    const plain = assemble(gathered({}));
    const twice = assemble(gathered({ calibration: { ratio: 2, calls: 3 } }));
    if (plain.kind !== "ready" || twice.kind !== "ready") return expect.unreachable();
    expect(twice.ledger.tokens).toBe(plain.ledger.tokens * 2);
    expect(twice.ledger.rawTokens).toBe(plain.ledger.rawTokens);
  });

  it("refuses a variable that nothing gives a value", () => {
    const sent = assemble(gathered({ content: { ...content, prompt: "At {{desk}}." } }));
    expect(sent).toMatchObject({
      kind: "refused",
      problem: { kind: "bad-request", detail: expect.stringContaining("{{desk}}") },
    });
  });

  it("refuses more than the window holds beside the reply, and says how much too much", () => {
    const sent = assemble(gathered({ window: 110 }));
    expect(sent).toMatchObject({
      kind: "refused",
      problem: { kind: "too-long", detail: expect.stringMatching(/: \d+ too many/) },
    });
  });
});

describe("slips", () => {
  it("are named with the message that has them", () => {
    expect(
      slipsOf([
        { role: "app", text: "Hello" },
        { role: "visitor", text: "" },
        { role: "visitor", text: "Well?" },
        { role: "system", text: "x" },
      ]),
    ).toEqual([
      { at: 0, reason: "the first message is not the visitor's" },
      { at: 1, reason: "the message is empty" },
      { at: 2, reason: "two messages of the visitor stand in a row" },
      { at: 3, reason: "the system prompt does not stand first" },
    ]);
  });
});

describe("turns", () => {
  it("pair a visitor's message with the reply to it", () => {
    expect(turnsOf(line("One?", "Yes.", "Two?")).map(({ number, reply }) => [number, reply?.id])).toEqual([
      [1, "m1"],
      [2, undefined],
    ]);
  });
});
