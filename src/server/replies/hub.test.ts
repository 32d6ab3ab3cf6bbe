import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { ReplyEvent } from "@/core/reply/events";
import { testFolder } from "../test-folder";
import type { PublishedEvent } from "./event-store";

let { home, remove } = testFolder();
remove();
let reply = "";

beforeEach(() => {
  ({ home, remove } = testFolder());
  const app = home.apps.make(
    "A",
    { prompt: "", variables: {}, provider: "p", model: "m", settings: {}, memory: { kind: "everything" } },
    1,
  );
  const { id } = home.conversations.create({ app: app.id, visitor: null, opening: "", now: 1 });
  const said = home.conversations.addVisitorMessage({
    conversation: id,
    parent: undefined,
    pieces: [],
    tokens: 0,
    now: 1,
  });
  reply = home.conversations.addReply({
    conversation: id,
    parent: said,
    continues: null,
    facts: { revision: 1, provider: "p", model: "m" },
    now: 1,
  }).id;
  home.hub.begin(reply, id);
});
afterEach(() => {
  vi.useRealTimers();
  remove();
});

const text = (words: string): ReplyEvent => ({ event: "text", data: { text: words } });
const end: ReplyEvent = { event: "end", data: { reason: "complete" } };
const textsIn = (events: PublishedEvent[]) =>
  events.map(({ event, data }) => (event === "text" ? JSON.parse(data).text : event));

describe("the reply hub", () => {
  it("shows the first text at once and gathers what follows", () => {
    vi.useFakeTimers();
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, 0, (event) => heard.push(event));
    for (const word of ["The ", "9:40 ", "runs ", "on "]) home.hub.publish(reply, text(word));
    expect(textsIn(heard)).toEqual(["The "]);
    vi.advanceTimersByTime(100);
    expect(textsIn(heard)).toEqual(["The ", "9:40 runs on "]);
    home.hub.publish(reply, text("Sunday."), end);
    expect(textsIn(heard)).toEqual(["The ", "9:40 runs on ", "Sunday.", "end"]);
  });

  it("has committed every event before a reader gets it, with the same id and data", () => {
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, 0, (event) => {
      expect(home.events.ofReply(reply, event.id - 1)[0]).toEqual(event);
      heard.push(event);
    });
    home.hub.publish(reply, text("Aye."), end);
    expect(heard.map(({ id }) => id)).toEqual([1, 2]);
  });

  it("gives one who comes late what was written, then what comes, each once", () => {
    home.hub.publish(reply, text("one "));
    const heard: PublishedEvent[] = [];
    const { goesOn } = home.hub.follow(reply, 0, (event) => heard.push(event));
    home.hub.publish(reply, text("two"), end);
    expect([goesOn, textsIn(heard)]).toEqual([true, ["one ", "two", "end"]]);
    const later: PublishedEvent[] = [];
    expect(home.hub.follow(reply, 1, (event) => later.push(event)).goesOn).toBe(false);
    expect(textsIn(later)).toEqual(["two", "end"]);
  });

  it("writes work along with the event that it belongs to", () => {
    const order: string[] = [];
    home.hub.follow(reply, 0, ({ event }) => order.push(event));
    home.hub.commitAlong(() => order.push("work"));
    home.hub.publish(reply, end);
    expect(order).toEqual(["work", "end"]);
  });

  it("keeps what could not be written and tries again", () => {
    vi.useFakeTimers();
    const heard: PublishedEvent[] = [];
    home.hub.follow(reply, 0, (event) => heard.push(event));
    let fails = true;
    home.hub.commitAlong(() => {
      if (fails) throw new Error("disk full");
    });
    home.hub.publish(reply, text("Aye."), end);
    expect(heard).toEqual([]);
    fails = false;
    vi.advanceTimersByTime(1100);
    expect(textsIn(heard)).toEqual(["Aye.", "end"]);
  });

  it("waits for a stop to close the provider's connection, and stops once", async () => {
    let halts = 0;
    home.hub.onStop(reply, async () => {
      halts += 1;
      home.hub.publish(reply, { event: "end", data: { reason: "stopped" } });
    });
    await home.hub.stop(reply);
    await home.hub.stop(reply);
    expect(halts).toBe(1);
  });
});
