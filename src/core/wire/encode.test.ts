import { describe, expect, it } from "vitest";
import { type Piece, piecesOf, type ToolPiece } from "../conversation/pieces";
import { encode, type WireCall } from "./encode";
import { fileMark, markedFiles, segmentsOf } from "./files";
import type { WireMessage } from "./message";
import { everyPlace } from "./places";
import { compileProfile } from "./profile";
import chatCompletions from "./profiles/chat-completions.json";
import growingArray from "./profiles/growing-array.json";
import jsonLines from "./profiles/json-lines.json";
import namedEvents from "./profiles/named-events.json";
import oneText from "./profiles/one-text.json";

const file = "ab".repeat(32);
const picture: Piece = { kind: "picture", file, type: "image/png", width: 40, height: 30 };
const call = (round: number, id: string, name: string, given: ToolPiece["arguments"], result?: string): Piece => ({
  kind: "tool",
  round,
  call: id,
  name,
  arguments: given,
  outcome: result === undefined ? "unknown" : "answered",
  result,
});
const exchange: WireMessage[] = [
  { role: "visitor", pieces: piecesOf("What does it cost?") },
  {
    role: "app",
    pieces: [
      ...piecesOf("I look. "),
      call(1, "c1", "fares", { to: "Brindle" }, "4.00"),
      call(1, "c2", "tides", {}, "high"),
      call(2, "c1", "fares", { to: "Tansy Holm" }, "6.00"),
      ...piecesOf("4.00 and 6.00."),
    ],
    carry: [
      { round: 1, value: "seal 1" },
      { round: 3, value: "seal 3" },
    ],
  },
  { role: "visitor", pieces: piecesOf("And back?") },
];
const tools = [{ name: "fares", description: "What a crossing costs.", parameters: { type: "object" } }];

function bodyOf(profile: object, messages: WireMessage[], more: Partial<WireCall> = {}) {
  const made = { model: "m", stream: true, messages, settings: { maxOutput: 9 }, ...more };
  return JSON.parse(encode(compileProfile(profile), made).body ?? "");
}

describe("what an app said with tools", () => {
  it("is as many messages as the shape that most servers share wants, each answer one of its own", () => {
    const { messages, tools: offered } = bodyOf(chatCompletions, exchange, { tools });
    const asks = (id: string, name: string, given: string) => ({
      id,
      type: "function",
      function: { name, arguments: given },
    });
    expect(messages).toEqual([
      { role: "user", content: "What does it cost?" },
      {
        role: "assistant",
        content: "I look. ",
        tool_calls: [asks("c1", "fares", '{"to":"Brindle"}'), asks("c2", "tides", "{}")],
      },
      { role: "tool", content: "4.00", tool_call_id: "c1" },
      { role: "tool", content: "high", tool_call_id: "c2" },
      { role: "assistant", content: "", tool_calls: [asks("c1", "fares", '{"to":"Tansy Holm"}')] },
      { role: "tool", content: "6.00", tool_call_id: "c1" },
      { role: "assistant", content: "4.00 and 6.00." },
      { role: "user", content: "And back?" },
    ]);
    expect(offered).toEqual([{ type: "function", function: { ...tools[0] } }]);
  });

  it("goes in the shapes of other APIs, the answers of a round together", () => {
    const { talk } = bodyOf(namedEvents, exchange);
    expect(talk.map(({ by }: { by: string }) => by)).toEqual([
      "guest",
      "host",
      "guest",
      "host",
      "guest",
      "host",
      "guest",
    ]);
    expect(talk[2]).toEqual({
      by: "guest",
      words: "",
      brought: [
        { ref: "c1", told: "4.00" },
        { ref: "c2", told: "high" },
      ],
    });
    const { course } = bodyOf(growingArray, exchange);
    expect(course[1].parts).toEqual([
      { words: "I look. " },
      { fetch: { ref: "c1", what: "fares", given: '{"to":"Brindle"}' } },
      { fetch: { ref: "c2", what: "tides", given: "{}" } },
    ]);
    expect(course[2]).toMatchObject({ voice: "tender", parts: [{ fetched: { ref: "c1", holds: "4.00" } }, {}] });
  });

  it("of which an answer is not known says so, and joins what comes next under one name", () => {
    const { talk } = bodyOf(namedEvents, [
      { role: "visitor", pieces: piecesOf("What does it cost?") },
      { role: "app", pieces: [call(1, "c1", "fares", "no json")] },
      { role: "visitor", pieces: piecesOf("And now?") },
    ]);
    expect(talk.at(-1)).toEqual({
      by: "guest",
      words: "And now?",
      brought: [{ ref: "c1", told: "It is not known whether it was done." }],
    });
    // what was no document can't be one
    expect(talk[1].asks).toEqual([{ ref: "c1", errand: "fares", with: {} }]);
  });

  it("is told in words where the profile says so", () => {
    const { lines } = bodyOf(jsonLines, exchange);
    expect(lines[1].line).toBe(
      'I look. [fares {"to":"Brindle"}: 4.00]\n[tides {}: high]\n[fares {"to":"Tansy Holm"}: 6.00]\n4.00 and 6.00.',
    );
  });

  it("gives each round back what the API gave along with it", () => {
    const profile = {
      ...chatCompletions,
      request: {
        ...chatCompletions.request,
        body: { said: { "<each>": "messages", as: { seal: "<carry>", of: "<role>" } }, last: "<carry>" },
      },
    };
    expect(bodyOf({ ...profile, pieces: { tool: "tell" } }, exchange).said[1]).toEqual({
      seal: "seal 3",
      of: "assistant",
    });
    const calls = { "<each>": "calls", as: { a: "<arguments>", r: "<result>" } };
    const split = { ...profile.request, body: { said: { "<each>": "messages", as: { seal: "<carry>", calls } } } };
    const { said } = bodyOf({ ...profile, request: split }, exchange);
    expect(said.flatMap((each: { seal?: string } | null) => each?.seal ?? [])).toEqual(["seal 1", "seal 3"]);
  });
});

describe("a picture", () => {
  const seen: WireMessage[] = [{ role: "visitor", pieces: [picture, ...piecesOf("What is it?")] }];

  it("goes as a mark in a typed piece, in the shapes that have a place for it", () => {
    expect(bodyOf(chatCompletions, seen).messages[0].content).toEqual([
      { type: "image_url", image_url: { url: `data:image/png;base64,${fileMark(file)}` } },
      { type: "text", text: "What is it?" },
    ]);
    expect(bodyOf(growingArray, seen).course[0].parts).toEqual([
      { sight: { form: "image/png", bytes: fileMark(file) } },
      { words: "What is it?" },
    ]);
  });

  it("is left out where the profile says so; a message that held nothing else says that there was one", () => {
    expect(bodyOf(jsonLines, seen).lines).toEqual([{ who: "asker", line: "What is it?" }]);
    expect(bodyOf(jsonLines, [{ role: "visitor", pieces: [picture] }]).lines[0].line).toBe("[picture]");
  });

  it("has its place known of each profile", () => {
    const places = (profile: object) => compileProfile(profile).placesFor("m");
    const none = { choosesTools: false, takesSchema: false, addresses: false };
    expect(places(chatCompletions)).toEqual(everyPlace);
    expect(places(namedEvents)).toEqual({ picture: "taken", tool: "taken", offersTools: true, ...none });
    expect(places(jsonLines)).toEqual({ picture: "left-out", tool: "told", offersTools: false, ...none });
    expect(places(oneText)).toEqual({ picture: "refused", tool: "refused", offersTools: false, ...none });
  });

  it("has a place for a choice of tools, and for the schema of a reply, where the API has one", () => {
    const schema = { type: "object" };
    const of = (more: Partial<WireCall>) =>
      bodyOf(chatCompletions, [{ role: "visitor", pieces: piecesOf("Hello") }], more);
    expect(of({ schema }).response_format).toEqual({ type: "json_schema", json_schema: { name: "reply", schema } });
    const tools = [{ name: "tides", description: "Tides.", parameters: {} }];
    expect(of({ tools }).tool_choice).toBeUndefined();
    expect(of({ tools, toolChoice: "required" }).tool_choice).toBe("required");
    expect(of({ tools, toolChoice: { name: "tides" } }).tool_choice).toEqual({
      type: "function",
      function: { name: "tides" },
    });
    expect(of({ toolChoice: "none" })).not.toHaveProperty("tool_choice");
    expect(of({})).not.toHaveProperty("response_format");
  });
});

describe("the files of a request", () => {
  it("are found by their marks, and by no others", () => {
    const other = fileMark("cd".repeat(32));
    const body = `{"a":"${fileMark(file)}","b":"${other}"}`;
    expect(segmentsOf(body, new Set([file]))).toEqual([
      { kind: "text", text: '{"a":"' },
      { kind: "file", hash: file },
      { kind: "text", text: `","b":"${other}"}` },
    ]);
    expect(segmentsOf(body, new Set())).toEqual([{ kind: "text", text: body }]);
    expect(markedFiles(body)).toHaveLength(2);
  });
});
