import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { conversations } from "@/contract/conversations";
import { piecesOf } from "@/core/conversation/pieces";
import { toldAll } from "@/core/reply/told";
import type { StoredApp } from "../apps/app-store";
import { HistoryReader } from "../archive/history-reader";
import type { StoredConversation } from "../conversations/conversation-store";
import { conversationAt } from "../entrance/access";
import { deleteConversation } from "../tending/deleting";
import { addTurn, plainContent, plainFacts, talk } from "../test/conversation";
import { testFolder } from "../test/folder";
import { benchLine, callerLine, conversationPage } from "./conversations";

let { home, remove } = testFolder();
remove();
let app: StoredApp;
beforeEach(() => {
  ({ home, remove } = testFolder());
  app = home.apps.make("A", plainContent, 1);
});
afterEach(() => remove());

const conversationOf = (id: string) => home.conversations.byId(id) as StoredConversation;
const pageOf = (conversation: StoredConversation, before?: string) => benchLine(home, app, conversation, { before });
const history = () => new HistoryReader(home.database).page({ app: app.id, filter: {}, after: null });
const talked = (turns: number, how?: Parameters<typeof talk>[3]) => conversationOf(talk(home, app.id, turns, how));

describe("a conversation in the list", () => {
  it("is a strip of its turns, with how each reply ended", () => {
    talked(3, { failing: [2] });
    const [listed] = history().conversations;
    expect(listed).toMatchObject({ opening: "Hello there, you", origin: "bench", turnCount: 3, tokens: 12 });
    expect(listed?.turns).toEqual([
      { visitor: 2, reply: 3, state: "complete", forks: 0, places: 0 },
      { visitor: 2, reply: 0, state: "failed", forks: 0, places: 0 },
      { visitor: 2, reply: 3, state: "complete", forks: 0, places: 0 },
    ]);
  });

  it("shows the latest turns of a long one, and how many there are in all", () => {
    talked(100);
    const [listed] = history().conversations;
    expect([listed?.turns.length, listed?.turnCount]).toEqual([40, 100]);
  });

  it("is its visitor's alone, while the bench sees all", () => {
    const [one, other] = [home.visitors.add(app.id, {}, 1), home.visitors.add(app.id, {}, 1)];
    const conversation = talked(1, { visitor: one });
    const seen = (visitor: string) => conversationPage(home, app, { visitor, told: toldAll }, {}).conversations.length;
    expect([seen(one), seen(other), history().conversations.length]).toEqual([1, 0, 1]);
    expect(() => conversationAt(home, app, { kind: "visitor", visitor: other }, conversation.id)).toThrow(
      /no conversation/,
    );
  });

  it("comes by page, and a place that is none is refused", () => {
    const visitor = home.visitors.add(app.id, {}, 1);
    for (let each = 0; each < 25; each++) talked(1, { visitor });
    const first = conversationPage(home, app, { visitor, told: toldAll }, {});
    const second = conversationPage(home, app, { visitor, told: toldAll }, { before: first.before ?? "" });
    expect([first.conversations.length, second.conversations.length, second.before]).toEqual([20, 5, null]);
    expect(() => conversationPage(home, app, { visitor, told: toldAll }, { before: "somewhere" })).toThrow(
      /not a place/,
    );
  });
});

describe("a page of a line", () => {
  it("is the end first, and what comes before it on request", () => {
    const conversation = talked(45);
    const end = pageOf(conversation);
    const start = pageOf(conversation, end.before ?? "");
    expect([end.messages.length, start.messages.length, start.before]).toEqual([60, 30, null]);
    expect(start.messages.at(-1)?.id).toBe(end.messages[0]?.parent);
    expect(() => pageOf(talked(1), end.before ?? "")).toThrow(/no message .* in this conversation/);
  });

  it("says what all that comes before it holds, so that none of it has to be read", () => {
    const page = pageOf(talked(45, { failing: [1, 2, 40] }));
    expect(page.messages[0]).toMatchObject({ turn: 16, soFar: { messages: 26, turns: 13, counts: { words: 26 } } });
    expect(page.messages.at(-1)).toMatchObject({ turn: 45, soFar: { messages: 84, turns: 42 } });
  });

  it("holds what has come so far of a reply that is arriving", () => {
    const conversation = talked(1);
    const { id } = addTurn(home, conversation.id, "And?");
    home.hub.begin({ reply: id, conversation: conversation.id, halt: async () => {}, fail: () => {} });
    home.hub.publish(id, { event: "text", data: { text: "Half" } });
    home.hub.publish(id, { event: "text", data: { text: " a reply" } });
    const now = home.conversations.byId(conversation.id) ?? conversation;
    expect(pageOf(now).messages.at(-1)).toMatchObject({
      state: "arriving",
      cursor: 2,
      pieces: [{ text: "Half a reply" }],
    });
  });
});

describe("a line as its caller gets it", () => {
  it("says what the reply says and took, and nothing of how it was made or failed", () => {
    const conversation = talked(1);
    const tip = conversation.tip ?? "";
    const inner = {
      kind: "unreachable",
      detail: "http://10.0.0.7:99 could not be reached.",
      advice: "Look at it.",
    } as const;
    home.messages.finishReply({
      id: tip,
      state: "failed",
      pieces: piecesOf("Half"),
      reported: null,
      facts: {
        ...plainFacts,
        steps: { visitor: 1, prompt: 2, memory: 3 },
        trace: [1, 2],
        carry: [{ round: 1, value: "opaque" }],
        failures: [{ provider: "P", model: "m", problem: inner }],
        firstTextMs: 3,
        problem: inner,
      },
    });
    const line = conversations.read.answers[200].schema.parse(callerLine(home, conversation, {}, toldAll));
    const reply = line.messages.at(-1);
    expect(Object.keys(reply?.role === "app" ? reply.facts : {}).sort()).toEqual(
      ["model", "problem", "provider", "revision"].sort(),
    );
    expect(JSON.stringify(line)).not.toMatch(/opaque|10\.0\.0\.7|trace|steps/);
  });
});

describe("deleting", () => {
  it("is for good, or can be taken back", async () => {
    const [one, other] = [talked(1), talked(1)];
    await deleteConversation(home, one.id, "for good");
    await deleteConversation(home, other.id, "restorable");
    expect([home.conversations.restore(one.id), home.conversations.restore(other.id)]).toEqual([false, true]);
  });
});
