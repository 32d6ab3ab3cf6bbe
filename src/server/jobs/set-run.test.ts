import type { ServerResponse } from "node:http";
import { describe, expect, it, vi } from "vitest";
import { setAnswer } from "../answers/sets";
import type { StoredSet } from "../comparing/set-store";
import { setAt } from "../comparing/sets";
import { streams, TestApp, usualPrice } from "../test/app";
import { askFailedAgain, beginSet, deleteSet, resumeSet, stopSet } from "./set-run";

const on = TestApp.each();
const patience = 20_000;

function begin(rows: string[][], mostPrice: number | null = null): StoredSet {
  const lanes = [{}, { settings: { maxOutput: 40 } }].map((change) => ({
    base: "live" as const,
    content: on.content(change),
  }));
  return beginSet(on.home, on.app, { lanes, rows }, mostPrice);
}

const standing = ({ id }: StoredSet) => setAnswer(on.home, setAt(on.home, id));
const ended = (set: StoredSet) => vi.waitFor(() => expect(standing(set).state).not.toBe("running"), patience);
const messagesOf = (body: string) => (JSON.parse(body) as { messages: { content: string }[] }).messages;

describe("a set of messages", () => {
  it("is asked of each lane, each row in a conversation of its own, with the same seed", async () => {
    const set = begin([["one", "two"], ["three"]]);
    await ended(set);
    const { answers, done, of, price } = standing(set);
    expect([done, of, answers.length, price]).toEqual([4, 4, 4, 6 * usualPrice]);
    expect(answers.filter(({ row }) => row === 0).map(({ replies }) => replies.map(({ text }) => text))).toEqual([
      ["Aye.", "Aye."],
      ["Aye.", "Aye."],
    ]);
    const sent = on.requests.map(({ body }) => messagesOf(body).map(({ content }) => content));
    expect(sent.filter((said) => said.at(-1) === "three")).toEqual([
      ["Be brief.", "three"],
      ["Be brief.", "three"],
    ]);
    expect(sent.filter((said) => said.at(-1) === "two")[0]).toEqual(["Be brief.", "one", "Aye.", "two"]);
    expect(new Set(on.requests.map(({ body }) => JSON.parse(body).seed))).toEqual(new Set([1]));
  });

  it("leaves a provider alone for as long as it asks for, and asks once more", async () => {
    let refused = 0;
    on.respond = (response) => {
      refused += 1;
      if (refused <= 2) response.writeHead(429, { "retry-after": "1" }).end("{}");
      else streams(["Aye."])(response);
    };
    const set = begin([["one"]]);
    await ended(set);
    const { answers } = standing(set);
    expect(answers.flatMap(({ replies }) => replies.map(({ figures }) => figures.outcome))).toEqual([
      "complete",
      "complete",
    ]);
    expect(on.requests).toHaveLength(4);
    // a message that is asked once more stands in its line once
    expect(messagesOf(on.requests.at(-1)?.body ?? "")).toHaveLength(2);
  });

  it("keeps what has failed with its reason, and asks that alone once more", async () => {
    on.respond = (response) => response.writeHead(400).end('{"error":{"message":"no"}}');
    const set = begin([["one", "two"]]);
    await ended(set);
    expect(standing(set).answers.map(({ replies }) => replies.map(({ figures }) => figures.problem?.kind))).toEqual([
      ["misconfigured"],
      ["misconfigured"],
    ]);
    on.respond = streams(["Aye."]);
    askFailedAgain(on.home, setAt(on.home, set.id));
    await ended(set);
    expect(standing(set).answers.map(({ replies }) => replies.length)).toEqual([2, 2]);
    expect(() => askFailedAgain(on.home, setAt(on.home, set.id))).toThrow(/Nothing of this set has failed/);
  });

  it("does not ask again what a kill left answered in a step that had not ended", async () => {
    const waiting: ServerResponse[] = [];
    on.respond = (response) => void waiting.push(response);
    const set = begin([["one"]]);
    await vi.waitFor(() => expect(waiting).toHaveLength(2), patience);
    await stopSet(on.home, setAt(on.home, set.id));
    const figures = { outcome: "complete", ms: 1, price: 0.5 };
    on.home.sets.addAnswer(set.id, { id: "ans_1", row: 0, lane: 0 }, [{ text: "Kept.", making: null, figures }]);
    on.respond = streams(["Aye."]);
    const before = on.requests.length;
    resumeSet(on.home, setAt(on.home, set.id));
    await ended(set);
    expect(on.requests.length - before).toBe(1);
    const { answers, price } = standing(set);
    expect(answers.map(({ replies }) => replies[0]?.text).toSorted()).toEqual(["Aye.", "Kept."]);
    expect(price).toBe(0.5 + usualPrice);
  });

  it("that is deleted while it is asked ends, and is gone for good only later", async () => {
    on.respond = () => {};
    const set = begin([["one"]]);
    await vi.waitFor(() => expect(on.requests).toHaveLength(2), patience);
    await deleteSet(on.home, setAt(on.home, set.id));
    expect(() => setAt(on.home, set.id)).toThrow(/no set/);
    expect(on.home.sets.restore(set.id)).toBe(true);
    expect(standing(set).state).toBe("stopped");
    on.home.sets.hide(set.id, 1);
    on.home.sets.deleteHidden(2);
    expect(on.home.sets.restore(set.id)).toBe(false);
  });
});
