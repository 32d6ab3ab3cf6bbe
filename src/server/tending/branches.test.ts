import fc from "fast-check";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { BenchLine } from "@/contract/conversations";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import { rawTokens } from "@/core/tokens/calibration";
import { benchLine } from "../answers/conversations";
import type { StoredApp } from "../apps/app-store";
import type { StoredConversation } from "../conversations/conversation-store";
import { plainContent, plainFacts, talk } from "../test/conversation";
import { testFolder } from "../test/folder";
import { deleteBranch, nameBranch, setClear, showBranch, writeTake } from "./branches";

let { home, remove } = testFolder();
remove();
let app: StoredApp;
beforeEach(() => {
  ({ home, remove } = testFolder());
  app = home.apps.make("A", plainContent, 1);
});
afterEach(() => remove());

const at = (id: string) => home.conversations.byId(id) as StoredConversation;
const lineOf = (id: string): BenchLine => benchLine(home, app, at(id), {});
const saidIn = (line: BenchLine) => line.messages.map((message) => textOf(message));

/** A turn after a reply, or at the beginning; gives the ids of both messages. */
function turnAfter(conversation: string, after: string | null, words: string, answered = `${words}!`) {
  const parent = after === null ? undefined : home.messages.message(after);
  const said = home.messages.addVisitorMessage({ conversation, parent, pieces: piecesOf(words), now: 2 });
  return { said: said.id, reply: takeOf(conversation, said.id, answered) };
}

function takeOf(conversation: string, message: string, words: string): string {
  const parent = home.messages.message(message);
  if (!parent) throw new Error("There is no such message.");
  const { id } = home.messages.addReply({ conversation, parent, continues: null, facts: plainFacts, now: 2 });
  home.messages.finishReply({ id, state: "complete", pieces: piecesOf(words), reported: null, facts: plainFacts });
  return id;
}

const begin = () => home.conversations.create({ app: app.id, visitor: null, origin: "bench", opening: "a", now: 1 }).id;
const tokensOf = (id: string) => at(id).tokens;

describe("lines that part", () => {
  it("are gone between, and each remembers how it went on", () => {
    const id = begin();
    const first = turnAfter(id, null, "one");
    const second = turnAfter(id, first.reply, "two");
    turnAfter(id, second.reply, "three");
    const other = turnAfter(id, first.reply, "zwei");
    expect(saidIn(lineOf(id))).toEqual(["one", "one!", "zwei", "zwei!"]);
    expect(lineOf(id).messages[2]).toMatchObject({
      siblings: [
        { id: second.said, name: null, turns: 2 },
        { id: other.said, turns: 1 },
      ],
    });
    showBranch(home, second.said);
    expect(saidIn(lineOf(id))).toEqual(["one", "one!", "two", "two!", "three", "three!"]);
    expect([at(id).turns, lineOf(id).messages[1]?.siblings]).toEqual([3, []]);
    showBranch(home, other.said);
    expect(saidIn(lineOf(id)).at(-1)).toBe("zwei!");
  });

  it("may part at the very beginning, and have names", () => {
    const id = begin();
    const [one, other] = [turnAfter(id, null, "one"), turnAfter(id, null, "eins")];
    nameBranch(home, one.said, "in English");
    expect(lineOf(id).messages[0]?.siblings).toMatchObject([{ name: "in English" }, { id: other.said, name: null }]);
  });

  it("of a visitor are looked at by the bench without changing where the visitor goes on", () => {
    const visitor = home.visitors.add(app.id, {}, 1);
    const id = talk(home, app.id, 2, { visitor });
    const [first] = home.messages.line(at(id).tip ?? "");
    const take = takeOf(id, first?.id ?? "", "Nay.");
    expect(at(id).tip).toBe(take);
    const last = home.messages.takesOf(first?.id ?? "")[0]?.id ?? "";
    showBranch(home, last);
    expect([at(id).tip, lineOf(id).isApart, saidIn(lineOf(id)).length]).toEqual([take, true, 4]);
    turnAfter(id, take, "And now?");
    expect([lineOf(id).isApart, saidIn(lineOf(id)).at(-1)]).toEqual([false, "And now?!"]);
  });

  it("are deleted with all below them and their words; the line beside is shown, the last one never goes", async () => {
    const id = begin();
    const first = turnAfter(id, null, "one");
    const before = tokensOf(id);
    const second = turnAfter(id, first.reply, "two");
    turnAfter(id, second.reply, "three");
    const other = turnAfter(id, first.reply, "zwei");
    showBranch(home, second.said);
    await deleteBranch(home, second.said);
    expect([saidIn(lineOf(id)).at(-1), home.messages.message(second.reply)]).toEqual(["zwei!", undefined]);
    await deleteBranch(home, takeOf(id, other.said, "drei!"));
    await home.removal.start();
    expect(home.database.prepare("SELECT count(*) FROM messages").pluck().get()).toBe(4);
    expect(home.database.prepare("SELECT count(*) FROM words").pluck().get()).toBe(4);
    expect(tokensOf(id)).toBe(before + 3);
    await expect(deleteBranch(home, other.said)).rejects.toThrow(/no other line/);
  });

  it("count and find a reply that was gone on from once: in the one that holds all of it", async () => {
    const id = begin();
    const { said, reply } = turnAfter(id, null, "Tell me", "a b");
    const parent = home.messages.message(said);
    if (!parent) return expect.unreachable();
    const on = home.messages.addReply({ conversation: id, parent, continues: reply, facts: plainFacts, now: 3 });
    const whole = { id: on.id, state: "complete", pieces: piecesOf("a b c"), reported: 9, facts: plainFacts } as const;
    home.messages.finishReply(whole);
    expect([tokensOf(id), home.branches.siblingsOf(id, on).length]).toEqual([2 + 9, 1]);
    expect(home.database.prepare("SELECT count(*) FROM words WHERE words MATCH 'a'").pluck().get()).toBe(1);
    takeOf(id, said, "d");
    await deleteBranch(home, on.id);
    expect([home.branches.siblingsOf(id, on).length, tokensOf(id)]).toEqual([1, 2 + 1]);
  });
});

describe("a long branch that is deleted", () => {
  /** A conversation of two lines that part at its first reply, one of them long. */
  function parting(turns: number) {
    const id = begin();
    const first = turnAfter(id, null, "one");
    const other = turnAfter(id, first.reply, "zwei");
    const [kept, ids] = [tokensOf(id), [] as string[]];
    for (let turn = 0, after = first.reply; turn < turns; turn++) {
      const { said, reply } = turnAfter(id, after, "and", "so");
      ids.push(said, reply);
      after = reply;
    }
    return { id, kept, top: ids[0] ?? "", middle: ids[turns] ?? "", last: ids.at(-1) ?? "", other };
  }
  const counted = (sql: string) => home.database.prepare(sql).pluck().get();
  const inSight = "SELECT count(*) FROM messages WHERE is_leaving = 0";

  it("can be read and gone on from no more while its messages leave, and counts for nothing once they have", async () => {
    const { id, kept, top, middle, last, other } = parting(200);
    const gone = deleteBranch(home, top);
    // what is done until the first wait
    await new Promise(setImmediate);
    expect(counted(inSight)).toBeGreaterThan(300);
    for (const each of [top, middle, last]) expect(home.messages.message(each)).toBeUndefined();
    expect(() => showBranch(home, middle)).toThrow(/no message/);
    expect(() => setClear(home, last, true)).toThrow(/no message/);
    expect([home.messages.message(other.reply)?.id, saidIn(lineOf(id))]).toEqual([
      other.reply,
      ["one", "one!", "zwei", "zwei!"],
    ]);
    const more = turnAfter(id, other.reply, "drei");
    await gone;
    expect([counted(inSight), counted("SELECT count(*) FROM words"), saidIn(lineOf(id)).length]).toEqual([6, 6, 6]);
    expect(home.messages.message(more.reply)?.role).toBe("app");
    await home.removal.start();
    expect([tokensOf(id), counted("SELECT count(*) FROM messages")]).toEqual([kept + 3, 6]);
  });

  it("goes on leaving after a stop of the process, before any of it is removed", async () => {
    const { id, kept, top, other } = parting(100);
    showBranch(home, other.said);
    home.branches.leave(top);
    expect([counted(inSight), tokensOf(id)]).toEqual([203, kept + 200 - 1]);
    await home.removal.start();
    expect([counted("SELECT count(*) FROM messages"), tokensOf(id)]).toEqual([4, kept]);
  });
});

describe("a take by hand", () => {
  it("is one of the takes, marked as written or corrected, and shown", () => {
    const id = begin();
    const { said, reply } = turnAfter(id, null, "When?", "At nine.");
    const corrected = writeTake(home, said, "At ten.", reply).reply;
    const written = writeTake(home, said, "At eleven.", undefined).reply;
    expect(lineOf(id).messages[1]).toMatchObject({
      id: written,
      facts: { hand: "written" },
      siblings: [{ id: reply }, { id: corrected }, { id: written }],
    });
    expect(home.messages.message(corrected)).toMatchObject({ facts: { hand: "corrected" }, state: "complete" });
    expect(() => writeTake(home, said, "x", said)).toThrow(/no take/);
    expect(() => writeTake(home, reply, "x", undefined)).toThrow(/of a visitor/);
  });
});

describe("a clear", () => {
  it("stands in its line alone, and can be taken away", () => {
    const id = begin();
    const first = turnAfter(id, null, "one");
    const second = turnAfter(id, first.reply, "two");
    setClear(home, second.reply, true);
    turnAfter(id, second.reply, "three");
    expect(lineOf(id)).toMatchObject({ clears: [{ message: second.reply, turn: 2, soFar: { turns: 2 }, by: null }] });
    expect(lineOf(id).messages.map(({ clearedFor }) => clearedFor.length)).toEqual([0, 0, 0, 1, 0, 0]);
    const other = turnAfter(id, first.reply, "zwei");
    expect(lineOf(id).clears).toEqual([]);
    setClear(home, first.reply, true);
    expect(lineOf(id).clears[0]?.message).toBe(first.reply);
    showBranch(home, second.said);
    expect(lineOf(id).clears[0]?.message).toBe(second.reply);
    setClear(home, second.reply, false);
    expect(lineOf(id).clears[0]?.message).toBe(first.reply);
    expect(() => setClear(home, other.said, true)).toThrow(/no reply/);
    // of one model alone, up to the last one of all
    const by = { provider: "P", model: "m" };
    setClear(home, second.reply, true, by);
    expect(lineOf(id).clears.map((clear) => [clear.message, clear.by])).toEqual([
      [second.reply, by],
      [first.reply, null],
    ]);
    setClear(home, second.reply, true);
    expect(lineOf(id).clears.map((clear) => clear.by)).toEqual([by, null]);
    setClear(home, second.reply, false, by);
    setClear(home, second.reply, false);
    expect(lineOf(id).clears.map((clear) => clear.message)).toEqual([first.reply]);
  });
});

describe("any tree", () => {
  it("is one line on the screen, whatever is added, shown and deleted", async () => {
    const step = fc.record({ what: fc.constantFrom("say", "say", "take", "show", "delete"), where: fc.nat() });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 25 }), async (steps) => {
        const id = begin();
        turnAfter(id, null, "0");
        for (const [number, { what, where }] of steps.entries()) {
          const all = home.database
            .prepare<[string], { id: string; role: string }>(
              "SELECT id, role FROM messages WHERE conversation_id = ? AND is_leaving = 0 ORDER BY id",
            )
            .all(id);
          const replies = all.filter(({ role }) => role === "app");
          const any = all[where % all.length]?.id ?? "";
          const reply = replies[where % replies.length]?.id ?? "";
          if (what === "say") turnAfter(id, where % 7 === 0 ? null : reply, String(number + 1));
          if (what === "take") takeOf(id, home.messages.message(reply)?.parent ?? "", `${number + 1}`);
          if (what === "show") showBranch(home, any);
          if (what === "delete")
            await deleteBranch(home, any).catch((error) => expect(String(error)).toMatch(/no other/));
          const { messages } = lineOf(id);
          expect(messages[0]?.parent).toBeNull();
          for (const [place, message] of messages.entries()) {
            expect(message.role).toBe(place % 2 === 0 ? "visitor" : "app");
            if (place > 0) expect(message.parent).toBe(messages[place - 1]?.id);
            if (message.siblings.length > 0) expect(message.siblings.map((each) => each.id)).toContain(message.id);
          }
          expect(at(id).turns).toBe(messages.at(-1)?.turn);
          const left = home.database
            .prepare<[string], { words: number | null; counts: string }>(
              "SELECT words_id AS words, counts FROM messages WHERE conversation_id = ? AND is_leaving = 0",
            )
            .all(id);
          expect(left.every(({ words }) => words !== null)).toBe(true);
          expect(tokensOf(id)).toBe(left.reduce((sum, { counts }) => sum + rawTokens(JSON.parse(counts)), 0));
        }
      }),
      { numRuns: 30 },
    );
  });
});
