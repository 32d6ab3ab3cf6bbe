import { describe, expect, it, vi } from "vitest";
import { toldAll } from "@/core/reply/told";
import { accessSchema } from "@/core/serving/access";
import { wholeAnswer } from "../answers/replies";
import { isRefusal } from "../ground/refusal";
import { streams, TestApp, usualPrice } from "../test/app";
import { ask, bench } from "./ask";

const on = TestApp.each();

describe("what an app may spend a day", () => {
  /** The most that one call of the test can cost. */
  const mostOfOne = async () => {
    limitTo(1_000);
    on.respond = () => {};
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    const most = on.home.reservations.of(on.app.id) / 1_000_000;
    await on.home.hub.stop(reply);
    return most;
  };
  const limitTo = (day: number) => {
    on.app = on.home.apps.setAccess(on.app, accessSchema.parse({ limits: { day } }));
  };
  const tryToAsk = () => {
    try {
      return ask(on.home, on.app, bench, { message: "Hello" }).reply;
    } catch (error) {
      return isRefusal(error) ? error.problem : undefined;
    }
  };

  it("holds with ten calls at once: what each can cost is held until it has ended", async () => {
    const most = await mostOfOne();
    let release = () => {};
    const gate = new Promise<void>((resolve) => {
      release = resolve;
    });
    on.respond = (response, body) => void gate.then(() => streams(["Aye."])(response), body as never);
    const spent = on.home.spend.since(on.app.id, 0) / 1_000_000;
    limitTo(spent + most * 3);
    const asked = Array.from({ length: 10 }, tryToAsk);
    const taken = asked.filter((each) => typeof each === "string");
    expect(taken.length).toBe(3);
    for (const refused of asked.slice(3))
      expect(refused).toMatchObject({ kind: "over-limit", retryAfter: expect.any(Number) });
    release();
    for (const reply of taken) await wholeAnswer(on.home, reply, toldAll);
    expect(on.home.reservations.of(on.app.id)).toBe(0);
    expect(on.home.spend.since(on.app.id, 0)).toBe((spent + usualPrice * 3) * 1_000_000);
    // what was held and not spent is there again
    expect(typeof tryToAsk()).toBe("string");
  });

  it("holds nothing for a call that is refused, and lets go where one fails or is stopped", async () => {
    limitTo(await mostOfOne());
    expect(() => ask(on.home, on.app, bench, { goOn: "msg_none" })).toThrow();
    on.respond = (response) => response.writeHead(500).end();
    await wholeAnswer(on.home, ask(on.home, on.app, bench, { message: "Hello" }).reply, toldAll).catch(() => {});
    expect(on.home.reservations.of(on.app.id)).toBe(0);
    on.respond = () => {};
    const { reply } = ask(on.home, on.app, bench, { message: "Hello" });
    expect(on.home.reservations.of(on.app.id)).toBeGreaterThan(0);
    await on.home.hub.stop(reply);
    await vi.waitFor(() => expect(on.home.reservations.of(on.app.id)).toBe(0));
  });

  it("adds up: replies, their conversation, the app and the day; deleting changes none of what was spent", async () => {
    on.respond = streams(["Aye."]);
    const first = ask(on.home, on.app, bench, { message: "Hello" });
    await wholeAnswer(on.home, first.reply, toldAll);
    const next = ask(on.home, on.app, bench, { message: "And?", conversation: first.conversation });
    await wholeAnswer(on.home, next.reply, toldAll);
    const replies = [first, next].map(({ reply }) => {
      const message = on.home.messages.message(reply);
      return message?.role === "app" ? Math.round((message.facts.usage?.price ?? 0) * 1_000_000) : 0;
    });
    const sum = replies.reduce((all, each) => all + each, 0);
    expect(on.home.conversations.stored(first.conversation)?.price).toBe(sum);
    expect(on.home.spend.since(on.app.id, 0)).toBe(sum);
    on.home.conversations.leave(first.conversation, Date.now());
    expect(on.home.spend.since(on.app.id, 0)).toBe(sum);
  });
});
