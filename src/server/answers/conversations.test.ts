import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { conversations } from "@/contract/conversations";
import { tokensPerMessage } from "@/core/tokens/estimate";
import type { StoredApp } from "../apps/app-store";
import { conversationAt } from "../conversations/access";
import { deleteConversation } from "../conversations/delete";
import { testFolder } from "../test-folder";
import { benchLine, callerLine, conversationPage, linePage } from "./conversations";

let { home, remove } = testFolder();
remove();
let app: StoredApp;
const facts = { revision: 1, provider: "p", model: "m" };

beforeEach(() => {
  ({ home, remove } = testFolder());
  app = home.apps.make(
    "A",
    { prompt: "", variables: {}, provider: "p", model: "m", settings: {}, memory: { kind: "everything" } },
    1,
  );
});
afterEach(() => remove());

function talk(turns: number, visitor: string | null = null, failing: number[] = []) {
  const { id } = home.conversations.create({ app: app.id, visitor, opening: "Hello there,\n  you", now: 1 });
  for (let turn = 1; turn <= turns; turn++) {
    const tip = home.conversations.byId(id)?.tip;
    const parent = tip ? home.conversations.message(tip) : undefined;
    const said = home.conversations.addVisitorMessage({
      conversation: id,
      parent,
      pieces: [{ kind: "text", text: `Turn ${turn}` }],
      tokens: 2,
      now: 1,
    });
    const reply = home.conversations.addReply({ conversation: id, parent: said, continues: null, facts, now: 1 });
    const isFailing = failing.includes(turn);
    home.conversations.finishReply({
      id: reply.id,
      state: isFailing ? "failed" : "complete",
      text: isFailing ? "" : "Aye.",
      tokens: isFailing ? 0 : 3,
      facts,
    });
  }
  return home.conversations.byId(id) as NonNullable<ReturnType<typeof home.conversations.byId>>;
}

describe("a conversation in the list", () => {
  it("is a strip of its turns, with how each reply ended", () => {
    talk(3, null, [2]);
    const [listed] = conversationPage(home, app, { kind: "bench" }, undefined).conversations;
    expect(listed).toMatchObject({ opening: "Hello there, you", origin: "bench", turnCount: 3, tokens: 12 });
    expect(listed?.turns).toEqual([
      { visitor: 2, reply: 3, state: "complete" },
      { visitor: 2, reply: 0, state: "failed" },
      { visitor: 2, reply: 3, state: "complete" },
    ]);
  });

  it("shows the latest turns of a long one, and how many there are in all", () => {
    talk(100);
    const [listed] = conversationPage(home, app, { kind: "bench" }, undefined).conversations;
    expect([listed?.turns.length, listed?.turnCount]).toEqual([40, 100]);
  });

  it("is its visitor's alone, while the bench sees all", () => {
    const [one, other] = [home.visitors.add(1), home.visitors.add(1)];
    const conversation = talk(1, one);
    const seen = (visitor: string) =>
      conversationPage(home, app, { kind: "visitor", visitor }, undefined).conversations.length;
    expect([
      seen(one),
      seen(other),
      conversationPage(home, app, { kind: "bench" }, undefined).conversations.length,
    ]).toEqual([1, 0, 1]);
    expect(() => conversationAt(home, app, { kind: "visitor", visitor: other }, conversation.id)).toThrow(
      /no conversation/,
    );
  });

  it("comes by page, and a place that is none is refused", () => {
    for (let each = 0; each < 25; each++) talk(1);
    const first = conversationPage(home, app, { kind: "bench" }, undefined);
    const second = conversationPage(home, app, { kind: "bench" }, first.before ?? "");
    expect([first.conversations.length, second.conversations.length, second.before]).toEqual([20, 5, null]);
    expect(() => conversationPage(home, app, { kind: "bench" }, "somewhere")).toThrow(/not a place/);
  });
});

describe("a page of a line", () => {
  it("is the end first, and what comes before it on request", () => {
    const conversation = talk(45);
    const end = linePage(home, conversation, undefined);
    const start = linePage(home, conversation, end.before ?? "");
    expect([end.messages.length, start.messages.length, start.before]).toEqual([60, 30, null]);
    expect(start.messages.at(-1)?.id).toBe(end.messages[0]?.parent);
    expect(() => linePage(home, talk(1), end.before ?? "")).toThrow(/no message of this conversation/);
  });

  it("tells the bench what is carried of all that comes before", () => {
    const conversation = talk(45, null, [1, 2, 40]);
    const { earlier } = benchLine(home, app, conversation, undefined);
    expect(earlier).toEqual({ messages: 26, turns: 13, tokens: 13 * (2 + 3 + 2 * tokensPerMessage) });
  });

  it("holds what has come so far of a reply that is arriving", () => {
    const conversation = talk(1);
    const tip = home.conversations.message(conversation.tip ?? "");
    const said = home.conversations.addVisitorMessage({
      conversation: conversation.id,
      parent: tip,
      pieces: [],
      tokens: 0,
      now: 2,
    });
    const { id } = home.conversations.addReply({
      conversation: conversation.id,
      parent: said,
      continues: null,
      facts,
      now: 2,
    });
    home.hub.begin({ reply: id, conversation: conversation.id, halt: async () => {}, fail: () => {} });
    home.hub.publish(id, { event: "text", data: { text: "Half" } });
    home.hub.publish(id, { event: "text", data: { text: " a reply" } });
    const now = home.conversations.byId(conversation.id) ?? conversation;
    expect(linePage(home, now, undefined).messages.at(-1)).toMatchObject({
      state: "arriving",
      cursor: 2,
      pieces: [{ text: "Half a reply" }],
    });
  });
});

describe("a line as its caller gets it", () => {
  it("says what the reply says and took, and nothing of how it was made or failed", () => {
    const conversation = talk(1);
    const tip = conversation.tip ?? "";
    const inner = {
      kind: "unreachable",
      detail: "http://10.0.0.7:99 could not be reached.",
      advice: "Look at it.",
    } as const;
    home.conversations.finishReply({
      id: tip,
      state: "failed",
      text: "Half",
      tokens: 1,
      facts: {
        ...facts,
        steps: { visitor: 1, prompt: 2, memory: 3 },
        trace: [1, 2],
        carry: { token: "opaque" },
        failures: [{ provider: "P", model: "m", problem: inner }],
        firstTextMs: 3,
        problem: inner,
      },
    });
    const line = conversations.read.answers[200].schema.parse(callerLine(home, conversation, undefined));
    const reply = line.messages.at(-1);
    expect(Object.keys(reply?.role === "app" ? reply.facts : {}).sort()).toEqual(
      ["model", "problem", "provider", "revision"].sort(),
    );
    expect(JSON.stringify(line)).not.toMatch(/opaque|10\.0\.0\.7|trace|steps/);
  });
});

describe("deleting", () => {
  it("is for good, or can be taken back", async () => {
    const [one, other] = [talk(1), talk(1)];
    await deleteConversation(home, one.id, "for good");
    await deleteConversation(home, other.id, "restorable");
    expect([home.conversations.restore(one.id), home.conversations.restore(other.id)]).toEqual([false, true]);
  });
});
