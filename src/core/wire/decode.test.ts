import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import { piecesOf } from "../conversation/pieces";
import type { ReadEvent } from "../reply/events";
import { type AnswerHead, createDecoder } from "./decode";
import { encode } from "./encode";
import { SseCutter } from "./framing/sse";
import { compileProfile, ProfileError } from "./profile";
import source from "./profiles/chat-completions.json";

const profile = compileProfile(source);
const sample = (name: string) => new Uint8Array(readFileSync(new URL(`samples/${name}`, import.meta.url)));
const streamed: AnswerHead = { status: 200, contentType: "text/event-stream; charset=utf-8" };
const whole: AnswerHead = { status: 200, contentType: "application/json" };

/** Reads bytes that come in these chunks. */
function read(head: AnswerHead, ...chunks: (Uint8Array | string)[]): ReadEvent[] {
  const decoder = createDecoder(profile, head);
  const bytes = chunks.map((chunk) => (typeof chunk === "string" ? new TextEncoder().encode(chunk) : chunk));
  return [...bytes.flatMap((chunk) => decoder.feed(chunk)), ...decoder.close()];
}

const data = (...documents: unknown[]) =>
  documents.map((each) => `data: ${typeof each === "string" ? each : JSON.stringify(each)}\n\n`).join("");
const delta = (content: string, finish_reason: string | null = null) => ({
  choices: [{ delta: { content }, finish_reason }],
});
const kindsOf = (events: ReadEvent[]) => events.map((each) => (each.event === "problem" ? each.data.kind : each.event));

describe("encoding a call", () => {
  const call = {
    model: "reed-deep",
    key: "k-1",
    stream: true,
    messages: [
      { role: "system" as const, pieces: piecesOf("Be brief.") },
      { role: "visitor" as const, pieces: piecesOf("Hello") },
      { role: "app" as const, pieces: piecesOf("Aye.") },
    ],
    settings: { temperature: 0, maxOutput: 80 },
  };

  it("fills the profile's request", () => {
    const { method, path, headers, body } = encode(profile, call);
    expect({ method, path, headers }).toEqual({
      method: "POST",
      path: "/v1/chat/completions",
      headers: { authorization: "Bearer k-1", "content-type": "application/json" },
    });
    expect(JSON.parse(body ?? "null")).toEqual({
      model: "reed-deep",
      messages: [
        { role: "system", content: "Be brief." },
        { role: "user", content: "Hello" },
        { role: "assistant", content: "Aye." },
      ],
      temperature: 0,
      max_tokens: 80,
      stream: true,
      stream_options: { include_usage: true },
    });
  });

  it("leaves out a header that has no value, and the options of a stream when there is none", () => {
    const { headers, body } = encode(profile, { ...call, key: undefined, stream: false });
    expect(headers).toEqual({ "content-type": "application/json" });
    expect(JSON.parse(body ?? "null")).toMatchObject({ stream: false });
    expect(body).not.toContain("stream_options");
  });
});

describe("what models need that are different", () => {
  it("overrides parts of the request for the models that a name fits", () => {
    const request = { body: { max_tokens: null, max_output: "<maxOutput>" }, headers: { "x-deep": "yes" } };
    const both = compileProfile({ ...source, overrides: [{ name: "deep-*", request }] });
    const call = {
      stream: true,
      messages: [{ role: "visitor" as const, pieces: piecesOf("Hello") }],
      settings: { maxOutput: 80 },
    };
    const bodyFor = (model: string) => JSON.parse(encode(both, { ...call, model }).body ?? "null");
    expect(bodyFor("deep-2")).toMatchObject({ max_output: 80 });
    expect(bodyFor("deep-2")).not.toHaveProperty("max_tokens");
    expect(bodyFor("shallow")).toMatchObject({ max_tokens: 80 });
    expect(encode(both, { ...call, model: "deep-2" }).headers).toMatchObject({ "x-deep": "yes" });
  });

  it("goes on from a reply by asking for it, where the API can't be given its beginning", () => {
    const asking = compileProfile({ ...source, roles: { ...source.roles, goOn: { ask: "Go on." }, merge: true } });
    const messages = [
      { role: "visitor" as const, pieces: piecesOf("One") },
      { role: "visitor" as const, pieces: piecesOf("Two") },
      { role: "app" as const, pieces: piecesOf("Aye") },
    ];
    const { body } = encode(asking, { model: "m", stream: false, messages, settings: {} });
    expect(JSON.parse(body ?? "null").messages).toEqual([
      { role: "user", content: "One\n\nTwo" },
      { role: "assistant", content: "Aye" },
      { role: "user", content: "Go on." },
    ]);
  });
});

describe("decoding an answer", () => {
  const version: ReadEvent = { event: "version", take: null, data: { version: "reed-swift" } };
  const expected: ReadEvent[] = [
    version,
    { event: "thought", take: 0, data: { text: "Sunday boats." } },
    { event: "text", take: 0, data: { text: "Yes, the 9:40 — " } },
    { event: "text", take: 0, data: { text: "zwölf Räder 🚲." } },
    { event: "counts", take: null, data: { input: 41, output: 9 } },
    { event: "end", take: 0, data: { reason: "complete" } },
  ];

  it("reads a stream", () => {
    expect(read(streamed, sample("chat-completions.sse"))).toEqual(expected);
  });

  it("reads a whole answer, and says that it was cut", () => {
    expect(read(whole, sample("chat-completions.json"))).toEqual([
      { event: "text", take: 0, data: { text: "Yes, the 9:40 takes bicycles." } },
      version,
      { event: "counts", take: null, data: { input: 41, output: 9 } },
      { event: "end", take: 0, data: { reason: "length" } },
    ]);
  });

  it("takes a stream without its end marker as whole if the reply had said that it ended", () => {
    expect(kindsOf(read(streamed, data(delta("Aye", "stop"))))).toEqual(["text", "end"]);
  });

  it("says the code of an error that the profile gives no meaning, and where to give it one", () => {
    const [last] = read(streamed, data({ error: { message: "worn out", code: "E-7" } }));
    expect(last?.data).toMatchObject({
      kind: "reported",
      detail: "The provider reports: worn out (code E-7)",
      advice: expect.stringContaining("answer.problem.codes"),
    });
  });

  it.each([
    ["a heartbeat", "data: ping\n\n"],
    ["a comment and an empty event", ": still here\n\ndata:\n\ndata: \n\n"],
    ["a date", "data: 2026-11-28T09:40:00Z\n\n"],
    ["a number", "data: 17\n\n"],
    ["an event of another kind", 'event: beat\ndata: {"at":1}\n\n'],
  ])("passes over %s between two texts", (_what, beat) => {
    const events = read(streamed, `${data(delta("Half a "))}${beat}${data(delta("reply", "stop"), "[DONE]")}`);
    expect(events.filter(({ event }) => event !== "passed-over").map(({ event }) => event)).toEqual([
      "text",
      "text",
      "end",
    ]);
  });

  it("notes an event that is not JSON and that no rule reads", () => {
    const events = read(streamed, `data: ping\n\n${data(delta("Aye", "stop"), "[DONE]")}`);
    expect(events[0]).toEqual({ event: "passed-over", take: null, data: { found: "ping" } });
  });

  it("reads nothing after the end", () => {
    expect(kindsOf(read(streamed, data(delta("Aye", "stop"), "[DONE]", delta("more"))))).toEqual(["text", "end"]);
  });

  it.each([
    ["a stream that closes early", streamed, data(delta("Half a")), ["text", "broken-off"]],
    ["an event that is not JSON", streamed, data(delta("Half"), '{"choices": [{'), ["text", "bad-reply"]],
    [
      "a finish word that the profile does not know",
      streamed,
      data(delta("x", "tired"), "[DONE]"),
      ["text", "bad-reply"],
    ],
    ["a reply without text", streamed, data(delta("", "stop"), "[DONE]"), ["empty"]],
    [
      "a null reply",
      whole,
      JSON.stringify({ choices: [{ message: { content: null }, finish_reason: "stop" }] }),
      ["empty"],
    ],
    [
      "an error inside a stream",
      streamed,
      data(delta("Half"), { error: { message: "worn out" } }),
      ["text", "reported"],
    ],
    [
      "an error inside a stream whose code the profile names",
      streamed,
      data(delta("Half"), { error: { message: "worn out", code: "model_not_found" } }),
      ["text", "unknown-model"],
    ],
    ["a page instead of JSON", { status: 200, contentType: "text/html" }, "<h1>Welcome</h1>", ["bad-reply"]],
    ["a wrong key", { ...whole, status: 401 }, '{"error":{"message":"no such key"}}', ["unauthorised"]],
    [
      "a wrong model, by its code",
      { ...whole, status: 404 },
      '{"error":{"message":"?","code":"model_not_found"}}',
      ["unknown-model"],
    ],
    ["a status that the profile does not name", { ...whole, status: 502 }, "", ["overloaded"]],
    ["a redirect", { ...whole, status: 302 }, "", ["misconfigured"]],
  ])("%s is a problem with a name, after the text that came", (_what, head, body, kinds) => {
    expect(kindsOf(read(head, body))).toEqual(kinds);
  });

  it("passes on the provider's words and how long to wait", () => {
    const [event] = read(
      { status: 429, contentType: "application/json", retryAfter: 2 },
      '{"error":{"message":"slow down"}}',
    );
    expect(event).toMatchObject({
      event: "problem",
      data: { kind: "rate-limited", retryAfter: 2, detail: expect.stringContaining("slow down") },
    });
  });
});

describe("framing server-sent events", () => {
  const frames = (...chunks: string[]) => {
    const framing = new SseCutter();
    return chunks.flatMap((chunk) => framing.feed(chunk));
  };

  it.each(["\n", "\r", "\r\n"])("ends lines with %j", (end) => {
    const text = ["event: said", "data: one", "data:two", ": note", "id: 7", "", "data: three", "", ""].join(end);
    const expected = [
      { name: "said", data: "one\ntwo", id: "7" },
      { name: "", data: "three" },
    ];
    expect(frames(text)).toEqual(expected);
    expect(frames(...text)).toEqual(expected);
  });

  it("drops an event whose blank line never came, and one without data", () => {
    expect(frames("event: a\n\ndata: b\n")).toEqual([]);
  });

  it("gives every event, also one with the id of the event before it", () => {
    expect(frames("id: 4\ndata: a\n\nid: 4\ndata: b\n\n").map(({ data }) => data)).toEqual(["a", "b"]);
  });
});

describe("a profile that is wrong", () => {
  it.each([
    [
      "a path",
      { ...source, answer: { ...source.answer, stream: { framing: "sse", rules: [{ text: "$.a[0" }], end: "close" } } },
      /^answer\.stream\.rules\[0\]\.text: "\$\.a\[0" is not a JSONPath: expected "\]"/,
    ],
    [
      "a placeholder",
      { ...source, request: { ...source.request, body: { model: "<modle>" } } },
      /^request\.body\.model: <modle> is not a placeholder/,
    ],
    [
      "a role",
      { ...source, roles: { visitor: "user", app: "assistant" } },
      /^roles\.system: is missing: the prompt goes as a message/,
    ],
    [
      "an override",
      { ...source, overrides: [{ name: "deep-*", request: { body: { model: "<mdl>" } } }] },
      /^overrides\[0\]\.request\.body\.model: <mdl> is not a placeholder/,
    ],
    [
      "a condition",
      { ...source, answer: { ...source.answer, problem: { when: { is: 1 }, message: "$.x" } } },
      /^answer\.problem\.when\.is: needs a path beside it/,
    ],
    ["a member", { ...source, request: { ...source.request, method: "FETCH" } }, /^request\.method: /],
  ])("in %s is refused with the place and the reason", (_what, document, reason) => {
    expect(() => compileProfile(document)).toThrow(ProfileError);
    expect(() => compileProfile(document)).toThrow(reason);
  });
});
