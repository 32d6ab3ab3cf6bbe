import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { piecesOf } from "@/core/conversation/pieces";
import { HistoryReader } from "../archive/history-reader";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";

let { home, remove } = testFolder();
remove();
beforeEach(() => {
  ({ home, remove } = testFolder());
});
afterEach(() => remove());

const begun = (opening: string) => {
  const app = (home.apps.all()[0] ?? home.apps.make("A", plainContent, 1)).id;
  const { id } = home.conversations.create({ app, visitor: null, origin: "bench", opening, now: 1 });
  return { app, id };
};
const say = (conversation: string, text: string) =>
  home.messages.addVisitorMessage({ conversation, parent: undefined, pieces: piecesOf(text), now: 1 });
const saying = (app: string, words: string) => new HistoryReader(home.database).ids(app, { words }, 10);
const parts = () => home.database.prepare("SELECT count(DISTINCT segid) FROM words_idx").pluck().get() as number;

describe("the words of many messages", () => {
  it("are added after all of them, in one part of the index", () => {
    const { app, id } = begun("tide");
    home.database.transaction(() =>
      home.messages.words.together(() => {
        for (let n = 0; n < 30; n += 1) say(id, `tide ${n}`);
        expect(saying(app, "tide")).toEqual([]);
      }),
    )();
    expect(saying(app, "29")).toEqual([id]);
    expect(parts()).toBe(1);
  });

  it("are not those of a message that was taken out meanwhile", () => {
    const { app, id } = begun("tide");
    home.messages.words.together(() => {
      home.messages.words.remove(say(id, "withdrawn").id);
      say(id, "kept");
    });
    expect(saying(app, "withdrawn")).toEqual([]);
    expect(saying(app, "kept")).toEqual([id]);
  });

  it("are brought together in steps, until there is nothing to do, and found as before", () => {
    const { app, id } = begun("tide");
    for (let n = 0; n < 40; n += 1) say(id, `tide ${n}`);
    const before = parts();
    expect(before).toBeGreaterThan(20);
    let steps = 0;
    while (home.messages.words.merge()) steps += 1;
    expect(steps).toBeGreaterThan(0);
    expect(parts()).toBeLessThan(before / 4);
    expect(saying(app, "17")).toEqual([id]);
  });
});
