import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { fileOf, NotRecordings, recordingsIn } from "./file";
import { differencesOf, nearestOf, wordsOfDifference } from "./nearest";
import { bytesOf, keyOf, partOf, type RecordedCall, type Recording, recordedCall } from "./recording";

const call = (content: string, more: Partial<RecordedCall> = {}): RecordedCall => ({
  provider: "reedbed",
  model: "reed-swift",
  method: "POST",
  path: "/v1/chat/completions",
  body: { model: "reed-swift", messages: [{ role: "system", content }] },
  ...more,
});
const recording = (check: string, trial: number, of = call("Say it in five sentences.")): Recording => ({
  at: "2026-05-01T09:40:00.000Z",
  of: { check, column: "live", trial },
  n: 1,
  call: of,
  answer: { status: 200, headers: { "content-type": "application/json" }, parts: [[12, "{}"]], end: "whole" },
});

describe("a call as recordings know it", () => {
  const by = { provider: "reedbed", model: "reed-swift" };
  const asked = { method: "POST", url: "http://127.0.0.1:4610/v1/chat?key=<key>", body: '{"b":1,"a":"It is 9:40."}' };

  it("is the same whatever host it goes to, in whatever order its members stand, and whatever the clock says", () => {
    const leave = (text: string) => text.replace("9:40", "{{time}}");
    const one = recordedCall(by, asked, leave);
    const other = { ...asked, url: "https://reeds.test/v1/chat?key=<key>", body: '{"a":"It is {{time}}.","b":1}' };
    expect(keyOf(recordedCall(by, other, (text) => text))).toBe(keyOf(one));
    expect(one).toMatchObject({ path: "/v1/chat?key=%3Ckey%3E", body: { a: "It is {{time}}.", b: 1 } });
    expect(keyOf(recordedCall(by, { ...asked, body: '{"b":2}' }, leave))).not.toBe(keyOf(one));
  });

  it("has a body that is no JSON as it is, and none where there is none", () => {
    expect(recordedCall(by, { ...asked, body: "plain words" }, (text) => text).body).toBe("plain words");
    expect(recordedCall(by, { ...asked, body: undefined }, (text) => text).body).toBeNull();
  });
});

it("bytes are the same once they were recorded, wherever they were cut", () => {
  fc.assert(
    fc.property(fc.uint8Array(), fc.string({ unit: "grapheme" }), fc.nat(), (bytes, words, at) => {
      const text = new TextEncoder().encode(words);
      for (const each of [bytes, text, text.slice(0, at % (text.length + 1)), new Uint8Array([0xef, 0xbb, 0xbf, 65])])
        expect(bytesOf(JSON.parse(JSON.stringify(partOf(1, each))))).toEqual(each);
    }),
  );
});

describe("a file of recordings", () => {
  it("has the same lines in whatever order they were recorded, and gives the same recordings", () => {
    const all = [recording("b", 1), recording("a", 10), recording("a", 2)];
    const file = fileOf(all);
    expect(fileOf(all.toReversed())).toBe(file);
    expect(recordingsIn(file).map(({ of }) => `${of.check}${of.trial}`)).toEqual(["a2", "a10", "b1"]);
    expect(fileOf(recordingsIn(file))).toBe(file);
  });

  it.each([
    ["{", "Line 2: is no JSON."],
    ['{"at":"then"}', "Line 2: at"],
    ["[]", "Line 2: it"],
  ])("is refused by the line that is wrong: %s", (line, why) => {
    const read = () => recordingsIn(`${fileOf([recording("a", 1)])}${line}\n`);
    expect(read).toThrow(NotRecordings);
    expect(read).toThrow(why);
  });
});

describe("the recording that is most like a call", () => {
  const edited = call("Say it in three sentences.");

  it("is one of the same check and trial, if there is one, and says where it differs", () => {
    const all = [recording("other", 1, edited), recording("short", 2), recording("short", 1)];
    const nearest = nearestOf(all, edited, { check: "short", column: "draft", trial: 1 });
    expect(nearest?.recording).toBe(all[2]);
    expect(nearest?.differences.map(wordsOfDifference)).toEqual([
      "$.body.messages[0].content: “Say it in five sentences.” became “Say it in three sentences.”",
    ]);
    expect(nearestOf([], edited, { check: "a", column: "b", trial: 1 })).toBeUndefined();
  });

  it("is the one that least is to be changed of, where there are several", () => {
    const far = recording("short", 1, call("Something else entirely, at great length."));
    const near = recording("short", 1, call("Say it in thirty sentences."));
    expect(nearestOf([far, near], edited, { check: "short", column: "live", trial: 1 })?.recording).toBe(near);
  });

  it("tells what is new, what is gone, and what is another", () => {
    const was = call("", { body: { a: 1, b: [1, 2], "odd name": true } });
    const is = call("", { model: "reed-deep", body: { a: 2, b: [1], c: "x" } });
    expect(differencesOf(was, is).map(wordsOfDifference)).toEqual([
      "$.model: “reed-swift” became “reed-deep”",
      "$.body.a: “1” became “2”",
      "$.body.b[1] is gone: “2”",
      "$.body.c is new: “x”",
      "$.body['odd name'] is gone: “true”",
    ]);
  });

  it("goes through no body that is nested without end", () => {
    let deep: RecordedCall["body"] = 1;
    for (let at = 0; at < 5_000; at += 1) deep = [deep];
    expect(differencesOf(call("", { body: deep }), call("")).map(({ path }) => path)).toEqual(["$.body"]);
  });
});
