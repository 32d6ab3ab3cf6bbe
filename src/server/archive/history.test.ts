import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { piecesOf } from "@/core/conversation/pieces";
import type { Filter } from "@/core/search/filter";
import type { StoredApp } from "../apps/app-store";
import { rateReply, writeOn } from "../tending/marks";
import { plainContent, plainFacts, talk } from "../test/conversation";
import { testFolder } from "../test/folder";
import { HistoryReader } from "./history-reader";

let { home, remove } = testFolder();
remove();
let app: StoredApp;
beforeEach(() => {
  ({ home, remove } = testFolder());
  app = home.apps.make("A", plainContent, 1);
});
afterEach(() => remove());

/** A conversation of one turn. */
function said(
  words: string,
  answer = "Aye.",
  how: { facts?: object; state?: "cut" | "failed"; now?: number } = {},
): string {
  const { now = 1 } = how;
  const { id } = home.conversations.create({ app: app.id, visitor: null, origin: "bench", opening: words, now });
  const parent = home.messages.addVisitorMessage({
    conversation: id,
    parent: undefined,
    pieces: piecesOf(words),
    now,
  });
  const facts = { ...plainFacts, ...how.facts };
  const reply = home.messages.addReply({ conversation: id, parent, continues: null, facts, now });
  const { state = "complete" } = how;
  home.messages.finishReply({ id: reply.id, state, pieces: piecesOf(answer), reported: 3, facts });
  return id;
}

const find = (filter: Filter) =>
  new HistoryReader(home.database).page({ app: app.id, filter, after: null }).conversations.map(({ id }) => id);
const tipOf = (id: string) => home.conversations.byId(id)?.tip ?? "";

describe("the filter of the history", () => {
  it("finds by origin, maker, ending, time, price, mark and tag", () => {
    const plain = said("one", "a", { now: 10 });
    const cut = said("two", "b", { state: "cut", facts: { revision: 2, model: "n" }, now: 20 });
    const failed = said("three", "", { state: "failed", now: 30 });
    const visitors = talk(home, app.id, 1, { visitor: home.visitors.add(app.id, {}, 1), now: 40 });
    home.conversations.spend(plain, 0.02, "EUR");
    rateReply(home, tipOf(cut), "visitor", "bad");
    writeOn(home, home.conversations.byId(failed) ?? expect.unreachable(), { tags: ["odd"], title: "A failure" });
    expect(find({})).toEqual([visitors, failed, cut, plain]);
    expect(find({ origin: "http" })).toEqual([visitors]);
    expect(find({ revision: 2 })).toEqual([cut]);
    expect(find({ model: "p n", ended: "cut" })).toEqual([cut]);
    expect(find({ model: "p m", ended: "cut" })).toEqual([]);
    expect(find({ ended: "failed" })).toEqual([failed]);
    expect(find({ since: 20, until: 40 })).toEqual([failed, cut]);
    expect(find({ over: 0.01 })).toEqual([plain]);
    expect(find({ rated: "bad" })).toEqual([cut]);
    expect(find({ tag: "ODD" })).toEqual([failed]);
    const [listed] = new HistoryReader(home.database).page({
      app: app.id,
      filter: { tag: "odd" },
      after: null,
    }).conversations;
    expect(listed).toMatchObject({ title: "A failure", tags: ["odd"], rated: [], price: null });
  });

  it("finds what is said in any message, marks it in the strip, and counts the places", () => {
    const id = said("Two bicycles on the 9:40", "Both bicycles travel free.");
    said("A dog", "Aye");
    const reader = new HistoryReader(home.database);
    const asked = { app: app.id, filter: { words: "bicy" } };
    expect(reader.page({ ...asked, after: null }).conversations).toMatchObject([
      { id, places: 2, turns: [{ places: 2 }] },
    ]);
    expect(reader.counted(asked)).toEqual({ conversations: 1, places: 2, of: 2 });
    expect(find({ words: "bicycles free" })).toEqual([id]);
    expect(find({ words: '"9:40"' })).toEqual([id]);
    expect(find({ words: "!!" })).toEqual([]);
    expect(find({ words: "bicycle", origin: "page" })).toEqual([]);
  });

  it("finds nothing of what is deleted, of another app, or of what only passed through", () => {
    const gone = said("a ferry");
    home.conversations.hide(gone, 5);
    const other = home.apps.make("B", plainContent, 1);
    talk(home, other.id, 1);
    const create = { app: app.id, visitor: null, origin: "http", isPassing: true, opening: "a ferry", now: 1 } as const;
    const passing = home.conversations.create(create);
    home.messages.addVisitorMessage({
      conversation: passing.id,
      parent: undefined,
      pieces: piecesOf("a ferry"),
      now: 1,
    });
    expect([find({ words: "ferry" }), find({})]).toEqual([[], []]);
    expect(home.conversations.restore(gone)).toBe(true);
    expect(find({ words: "ferry" })).toEqual([gone]);
  });

  it("comes by page, and names all that it finds", () => {
    const all = Array.from({ length: 45 }, (_, at) => said(`boat ${at}`, "Aye", { now: at + 1 }));
    const reader = new HistoryReader(home.database);
    const pages: string[] = [];
    let after: { updatedAt: number; id: string } | null = null;
    do {
      const page = reader.page({ app: app.id, filter: { words: "boat" }, after });
      pages.push(...page.conversations.map(({ id }) => id));
      const [updatedAt, id = ""] = page.before?.split("-") ?? [];
      after = updatedAt === undefined ? null : { updatedAt: Number(updatedAt), id };
    } while (after);
    expect(pages).toEqual(all.toReversed());
    expect(reader.ids(app.id, { words: "boat" }, 40)).toEqual(all.slice(0, 40));
  });

  it("says in which turns of a line something is said", () => {
    const id = talk(home, app.id, 30);
    const reader = new HistoryReader(home.database);
    expect(reader.turnsSaying({ conversation: id, end: tipOf(id), words: "turn 17 " })).toEqual([17]);
    expect(reader.turnsSaying({ conversation: id, end: tipOf(id), words: "aye" }).length).toBe(30);
    expect(reader.choices(app.id)).toMatchObject({
      from: [{ origin: "bench", client: null }],
      models: ["p m"],
      revisions: [1],
    });
  });
});

describe("the reading thread", () => {
  it("reads what was just written, and says what went wrong", async () => {
    const id = said("A ferry");
    expect(
      (await home.reader.call("page", { app: app.id, filter: { words: "ferry" }, after: null })).conversations,
    ).toMatchObject([{ id }]);
    await expect(home.reader.call("page", undefined as never)).rejects.toThrow(/undefined/);
    const later = said("A second ferry");
    expect(await home.reader.call("ids", { app: app.id, filter: { words: "ferry" }, most: 5 })).toEqual([id, later]);
  });
});
