import Sqlite from "better-sqlite3";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Message } from "@/core/conversation/message";
import type { LastEvent, ReplyEvent } from "@/core/reply/events";
import { openBeside } from "../database/database";
import { addTurn, plainContent, plainFacts, talk } from "../test/conversation";
import { testFolder } from "../test/folder";
import type { PublishedEvent } from "./event-store";

let { home, remove } = testFolder();
remove();
let reply = "";
let conversation = "";
let halted: LastEvent[] = [];

beforeEach(() => {
  ({ home, remove } = testFolder());
  const app = home.apps.make("A", plainContent, 1);
  conversation = talk(home, app.id, 0);
  halted = [];
  reply = addTurn(home, conversation, "Hello").id;
  begin(reply);
});

/** Begins a reply whose making ends as it is told to. */
function begin(reply: string): void {
  home.hub.begin({
    reply,
    conversation,
    halt: async (last) => {
      halted.push(last);
      home.hub.publish(reply, last);
    },
    fail: (failure) =>
      home.messages.finishReply({
        id: reply,
        state: "failed",
        pieces: [],
        reported: null,
        facts: { ...plainFacts, problem: failure },
      }),
  });
}

/** Another reply in the same conversation. */
function another(): string {
  const parent = home.messages.message(home.messages.message(reply)?.parent ?? "") as Message;
  const to = { conversation, parent, continues: null, facts: plainFacts, now: 2 };
  const { id } = home.messages.addReply(to);
  begin(id);
  return id;
}
afterEach(() => {
  vi.useRealTimers();
  remove();
});

const text = (words: string): ReplyEvent => ({ event: "text", data: { text: words } });
const end: ReplyEvent = { event: "end", data: { reason: "complete" } };
const textOf = (event: ReplyEvent) => (event.event === "text" ? event.data.text : "");
const textsIn = (events: PublishedEvent[]) =>
  events.map(({ event, data }) => (event === "text" ? JSON.parse(data).text : event));

describe("the reply hub", () => {
  it("shows the first text at once and gathers what follows", () => {
    vi.useFakeTimers();
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, (event) => heard.push(event));
    for (const word of ["The ", "9:40 ", "runs ", "on "]) home.hub.publish(reply, text(word));
    expect(textsIn(heard)).toEqual(["The "]);
    vi.advanceTimersByTime(100);
    expect(textsIn(heard)).toEqual(["The ", "9:40 runs on "]);
    home.hub.publish(reply, text("Sunday."), end);
    expect(textsIn(heard)).toEqual(["The ", "9:40 runs on ", "Sunday.", "end"]);
  });

  it("gathers data as well: what waits is replaced by what is newer, so that a tick has one of it", () => {
    vi.useFakeTimers();
    for (const value of [1, 2, 3, 4]) home.hub.publish(reply, { event: "data", data: { value } });
    const heard = () => home.hub.eventsOf(reply).map(({ data }) => JSON.parse(data));
    expect(heard()).toEqual([{ value: 1 }]);
    vi.advanceTimersByTime(100);
    expect(heard()).toEqual([{ value: 1 }, { value: 4 }]);
  });

  it("settles once all that was said is committed, and at once where nothing is left to say", async () => {
    home.hub.publish(reply, { event: "text", data: { text: "One " } });
    home.hub.publish(reply, { event: "text", data: { text: "two." } });
    await home.hub.settled(reply);
    expect(home.hub.eventsOf(reply).map(({ data }) => JSON.parse(data).text)).toEqual(["One ", "two."]);
    await home.hub.settled("msg_of_nobody");
  });

  it("says for how long other writes should wait: while text of a reply is about to be written, and no longer", () => {
    vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
    home.hub.publish(reply, text("The "));
    expect(home.hub.untilCalm(10)).toBe(0);
    vi.advanceTimersByTime(50);
    expect(home.hub.untilCalm(10)).toBeCloseTo(15);
    vi.advanceTimersByTime(15);
    expect(home.hub.untilCalm(10)).toBe(0);
    home.hub.publish(reply, text("9:40."), end);
    vi.advanceTimersByTime(50);
    expect(home.hub.untilCalm(10)).toBe(0);
  });

  it("does not stand while another connection writes, keeps what is said, and writes it once it can", async () => {
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, (event) => heard.push(event));
    const other = openBeside(home.folder);
    other.exec("BEGIN IMMEDIATE");
    home.hub.publish(reply, text("The "));
    home.hub.publish(reply, text("9:40."), end);
    expect(heard).toEqual([]);
    expect(home.hub.untilCalm(10)).toBeGreaterThan(0);
    expect(home.hub.problem).toBeUndefined();
    other.exec("COMMIT");
    other.close();
    await home.hub.ended(reply);
    expect(textsIn(heard)).toEqual(["The 9:40.", "end"]);
    expect(home.hub.untilCalm(10)).toBe(0);
  });

  it("says that nothing can be written where another connection does not end, and goes on once it does", async () => {
    vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
    const other = openBeside(home.folder);
    other.exec("BEGIN IMMEDIATE");
    home.hub.publish(reply, text("Aye."), end);
    vi.advanceTimersByTime(1_900);
    expect(home.hub.problem).toBeUndefined();
    vi.advanceTimersByTime(200);
    expect(home.hub.problem?.detail).toContain("another program holds the database");
    other.exec("COMMIT");
    other.close();
    vi.advanceTimersByTime(1_000);
    expect(home.hub.problem).toBeUndefined();
    expect(home.hub.isLive(reply)).toBe(false);
  });

  it("has committed every event before a reader gets it, with the same id and data", () => {
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, (event) => {
      expect(home.events.afterPosition(event.position - 1, 1)).toEqual([event]);
      expect(event).toMatchObject(home.hub.eventsOf(reply, event.id - 1)[0] ?? {});
      heard.push(event);
    });
    home.hub.publish(reply, text("Aye."), end);
    expect(heard.map(({ id }) => id)).toEqual([1, 2]);
  });

  it("gives all that was said from any id on, while a reply is live and after it, over the borders of its pages", () => {
    vi.useFakeTimers();
    const said = Array.from({ length: 150 }, (_, at) => text(`${at} `));
    for (const each of said) {
      home.hub.publish(reply, each);
      vi.advanceTimersByTime(100);
    }
    const check = (count: number) => {
      expect(home.hub.eventsOf(reply).map(({ id }) => id)).toEqual(Array.from({ length: count }, (_, at) => at + 1));
      for (const after of [0, 1, 63, 64, 65, 127, 128, 149]) {
        const [next] = home.hub.eventsOf(reply, after, 1);
        expect(next).toMatchObject({ reply, conversation, id: after + 1 });
        expect(home.hub.eventsOf(reply, after, 70)).toHaveLength(Math.min(count - after, 70));
      }
    };
    check(150);
    expect(home.hub.standing(reply)).toMatchObject({ cursor: 150, pieces: [{ text: said.map(textOf).join("") }] });
    home.hub.publish(reply, end);
    check(151);
    expect(home.events.lastId(reply)).toBe(151);
  });

  it("gathers all that many live replies say, their ends too, and writes it together", () => {
    vi.useFakeTimers();
    const others = Array.from({ length: 15 }, another);
    home.hub.publish(reply, text("Aye."));
    const heard: PublishedEvent[] = [];
    home.hub.followAll((event) => heard.push(event));
    for (const other of others) home.hub.publish(other, text("one "), end);
    expect(heard).toEqual([]);
    vi.advanceTimersByTime(100);
    expect(textsIn(heard)).toEqual(["Aye.", ...others.flatMap(() => ["one ", "end"])]);
    home.hub.publish(reply, end);
    expect(textsIn(heard).at(-1)).toBe("end");
  });

  it("has nothing more to give of a reply that ended", () => {
    home.hub.publish(reply, text("one"), end);
    expect(home.hub.follow(reply, () => {})).toBeUndefined();
  });

  it("writes work along with the event that it belongs to", () => {
    const order: string[] = [];
    home.hub.follow(reply, ({ event }) => order.push(event));
    home.hub.commitAlong(reply, () => {
      order.push("work");
      return () => order.push("committed");
    });
    home.hub.publish(reply, end);
    expect(order).toEqual(["work", "committed", "end"]);
  });

  it("ends a reply of which something fails after its commit, and commits nothing twice", async () => {
    const heard: PublishedEvent[] = [];
    home.hub.followAll((event) => heard.push(event));
    const other = another();
    home.hub.commitAlong(reply, () => () => {
      throw new Error("a mistake");
    });
    home.hub.publish(other, text("one "));
    home.hub.publish(reply, text("Aye."));
    await Promise.resolve();
    const ofReply = heard.filter((event) => event.reply === reply);
    expect(ofReply.map(({ id, event }) => [id, event])).toEqual([
      [1, "text"],
      [2, "problem"],
    ]);
    expect(home.hub.eventsOf(reply).map(({ id }) => id)).toEqual([1, 2]);
    home.hub.publish(other, end);
    expect(textsIn(heard.filter((event) => event.reply === other))).toEqual(["one ", "end"]);
  });

  it("keeps everything while the data folder can't be written, says so, and writes it when it can", async () => {
    vi.useFakeTimers();
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, (event) => heard.push(event));
    let fails = true;
    home.hub.commitAlong(reply, () => {
      if (fails) throw new Sqlite.SqliteError("database or disk is full", "SQLITE_FULL");
      return undefined;
    });
    home.hub.publish(reply, text("Aye."), end);
    expect(heard).toEqual([]);
    expect(home.hub.problem).toMatchObject({ kind: "no-storage", detail: expect.stringContaining("the disk is full") });
    await expect(home.hub.stop(reply)).rejects.toThrow(/the disk is full/);
    fails = false;
    vi.advanceTimersByTime(1100);
    expect(textsIn(heard)).toEqual(["Aye.", "end"]);
    expect(home.hub.problem).toBeUndefined();
  });

  it("ends a reply whose row can't be written as a problem, and no other", () => {
    const other = another();
    const heard: PublishedEvent[] = [];
    home.hub.followAll((event) => heard.push(event));
    home.hub.publish(other, text("one "));
    home.hub.publish(reply, text("bad "));
    home.hub.commitAlong(reply, () => {
      throw new TypeError("SQLite3 can only bind numbers, strings, bigints, buffers, and null");
    });
    home.hub.publish(other, text("two"), end);
    expect(heard.filter((event) => event.reply === other).map(({ event }) => event)).toEqual(["text", "text", "end"]);
    expect(heard.filter((event) => event.reply === reply).map(({ event }) => event)).toEqual(["text", "problem"]);
    expect(home.messages.message(reply)).toMatchObject({
      state: "failed",
      facts: { problem: { kind: "internal" } },
    });
    expect(home.events.ofReply(reply, 0).map(({ event }) => event)).toEqual(["text", "problem"]);
    expect(halted).toEqual([{ event: "problem", data: expect.objectContaining({ kind: "internal" }) }]);
    expect([home.hub.isLive(reply), home.hub.problem]).toEqual([false, undefined]);
  });

  it("ends a reply whose row is gone, and goes on with the others", () => {
    const other = another();
    const heard: PublishedEvent[] = [];
    home.hub.follow(other, (event) => heard.push(event));
    const told: PublishedEvent[] = [];
    home.hub.follow(reply, (event) => told.push(event));
    home.database.prepare("DELETE FROM messages WHERE id = ?").run(reply);
    home.hub.publish(reply, text("into nowhere"), end);
    home.hub.publish(other, text("Aye."), end);
    expect(told.map(({ event }) => event)).toEqual(["problem"]);
    expect(textsIn(heard)).toEqual(["Aye.", "end"]);
  });

  it("tells the other readers when one of them fails", () => {
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, () => {
      throw new Error("gone");
    });
    home.hub.follow(reply, (event) => heard.push(event));
    home.hub.publish(reply, text("Aye."), end);
    expect(textsIn(heard)).toEqual(["Aye.", "end"]);
  });

  it("waits for a stop to close the provider's connection, and stops once", async () => {
    await home.hub.stop(reply);
    await home.hub.stop(reply);
    expect(halted).toEqual([{ event: "end", data: { reason: "stopped" } }]);
  });

  it("is emptied by waiting for replies, and by interrupting those that take longer", async () => {
    const quick = another();
    const emptied = home.hub.emptied(100);
    home.hub.publish(quick, text("Aye."), end);
    await emptied;
    expect(home.hub.underWay).toEqual([]);
    expect(halted).toMatchObject([{ event: "problem", data: { kind: "interrupted" } }]);
  });
});
