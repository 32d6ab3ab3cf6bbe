import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { RecordedAnswer, RecordedCall, Recording } from "@/core/recordings/recording";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";
import { benchTraffic } from "./bench-traffic";
import { type AnswersFrom, RunTraffic } from "./run-traffic";

let folder: ReturnType<typeof testFolder>;
let app: string;
beforeEach(() => {
  folder = testFolder();
  app = folder.home.apps.make("Quay Desk", plainContent, 1).id;
});
afterEach(() => folder.remove());

const call = (content: string): RecordedCall => ({
  provider: "reedbed",
  model: "reed-deep",
  method: "POST",
  path: "/v1/chat",
  body: { messages: [{ content }] },
});
const answer = (text: string): RecordedAnswer => ({ status: 200, headers: {}, parts: [[1, text]], end: "whole" });
const slot = (check: string, trial: number, column = "live") => ({ check, column, trial });
const run = (answers: AnswersFrom, records = false) =>
  new RunTraffic(folder.home.recordings, { app, answers, pace: "at-once", records });
const said = (found: ReturnType<ReturnType<RunTraffic["forTrial"]>["find"]>) =>
  found.kind === "played" ? found.answer.parts[0]?.[1] : found.kind === "none" ? found.problem.detail : found.kind;

describe("what a run recorded", () => {
  beforeEach(() => {
    const recording = run("called", true);
    for (const trial of [1, 2, 3]) {
      const traffic = recording.forTrial(slot("a", trial));
      expect(traffic.find(call("same")).kind).toBe("called");
      traffic.keep?.(call("same"), answer(`a${trial}, first`));
      traffic.keep?.(call("same"), answer(`a${trial}, second`));
    }
  });

  it("is played in its place, whichever trial comes first, and as often as it was asked", () => {
    const played = run("recorded");
    const third = played.forTrial(slot("a", 3));
    const first = played.forTrial(slot("a", 1));
    expect([said(third.find(call("same"))), said(first.find(call("same"))), said(third.find(call("same")))]).toEqual([
      "a3, first",
      "a1, first",
      "a3, second",
    ]);
  });

  it("is played for another check, or another candidate, that asks the same, each once", () => {
    const played = run("recorded");
    const other = played.forTrial(slot("a", 2, "draft"));
    expect(said(other.find(call("same")))).toBe("a2, first");
    const elsewhere = played.forTrial(slot("b", 1));
    const all = Array.from({ length: 6 }, () => said(elsewhere.find(call("same"))));
    expect(new Set(all.slice(0, 5))).toEqual(
      new Set(["a1, first", "a1, second", "a2, second", "a3, first", "a3, second"]),
    );
    expect(all[5]).toMatch(/its 6 recordings were played/);
  });

  it("is called for where there is none, or says what the nearest asks instead", () => {
    expect(said(run("recorded-first").forTrial(slot("a", 1)).find(call("other")))).toBe("called");
    expect(said(run("recorded").forTrial(slot("a", 1)).find(call("sane")))).toMatch(
      /The nearest is of “a”, trial 1: \$\.body\.messages\[0\]\.content: “same” became “sane”\./,
    );
  });

  it("is let go of where its trial is recorded anew, and stays where another is", () => {
    run("called", true).forTrial(slot("a", 2));
    const left = folder.home.recordings.all(app).map(({ of }) => of.trial);
    expect(left).toEqual([1, 1, 3, 3]);
    const large = { ...folder.home.recordings.all(app)[0], answer: answer("x".repeat(17 * 1024 * 1024)) };
    expect(folder.home.recordings.replace(app, [large as Recording])).toBe(false);
    expect(folder.home.recordings.kept(app).count).toBe(4);
    folder.home.recordings.replace(app, []);
    expect(folder.home.recordings.kept(app)).toEqual({ count: 0, bytes: 0, oldest: null, newest: null });
  });
});

it("at the bench only those are recorded that are switched on, each as often as it comes", () => {
  const speaker = (slug: string, records: boolean) => ({ connection: { slug, records } });
  expect(benchTraffic(folder.home, app, [speaker("reedbed", false)])).toBeUndefined();
  const traffic = benchTraffic(folder.home, app, [speaker("reedbed", true), speaker("saltpan", false)]);
  expect(traffic?.find(call("a")).kind).toBe("called");
  traffic?.keep?.(call("a"), answer("one"));
  traffic?.keep?.(call("a"), answer("two"));
  traffic?.keep?.({ ...call("a"), provider: "saltpan" }, answer("three"));
  expect(folder.home.recordings.all(app).map(({ n, call: { provider } }) => [n, provider])).toEqual([
    [1, "reedbed"],
    [2, "reedbed"],
  ]);
  expect(said(run("recorded").forTrial(slot("any", 1)).find(call("a")))).toBe("one");
});
