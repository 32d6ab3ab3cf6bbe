import { describe, expect, it } from "vitest";
import type { ReadEvent } from "../../reply/events";
import { type AnswerHead, createDecoder } from "../decode";
import type { FramingName } from "../framing/framings";
import { compileProfile } from "../profile";
import type { Rule, WrittenProfile } from "../profile-schema";

type Answer = WrittenProfile["answer"];

/** A profile that streams in a framing, with these rules. */
function profileOf(framing: FramingName, rules: Rule[], change: Partial<Answer> = {}) {
  return compileProfile({
    profile: 1,
    shape: "Forgiving",
    request: { method: "POST", path: "/", headers: {} },
    roles: { visitor: "v", app: "a", prompt: "first" },
    answer: { stream: { framing, rules, end: "close" }, problem: { message: "$.error.message" }, ...change },
    finishWords: { "*": "complete" },
  });
}

/** An answer read byte by byte. */
function read(profile: ReturnType<typeof profileOf>, body: string | Uint8Array, head: Partial<AnswerHead> = {}) {
  const decoder = createDecoder(profile, { status: 200, contentType: "text/event-stream", ...head });
  const bytes = typeof body === "string" ? new TextEncoder().encode(body) : body;
  const events: ReadEvent[] = [];
  for (const byte of bytes) events.push(...decoder.feed(Uint8Array.of(byte)));
  return [...events, ...decoder.close(), ...decoder.close()];
}

const textOf = (events: ReadEvent[]) => events.map((each) => (each.event === "text" ? each.data.text : "")).join("");
const last = (events: ReadEvent[]) => events.at(-1);
const text: Rule[] = [{ text: "$.t" }];
const lines = { contentType: "application/x-ndjson" };

describe("an answer that is otherwise than its profile says", () => {
  const end: Rule[] = [{ text: "$.t", finish: "$.end" }];

  it("is read where several documents stand in one event, up to the one that ends it", () => {
    const body = '{"t":"Mill"}{"t":" Quay"} {"t":".","end":"done"}\n';
    expect(textOf(read(profileOf("ndjson", end), body, lines))).toBe("Mill Quay.");
    const ended = profileOf("sse", [{ text: "$.t" }], {
      stream: { framing: "sse", rules: [{ text: "$.t" }], end: { when: { at: "$.over" } } },
    });
    expect(textOf(read(ended, 'data: {"t":"a"}{"over":1}{"t":"b"}\n\n'))).toBe("a");
    expect(last(read(profileOf("sse", text), 'data: {"t":"a"}{"t":\n\n'))).toMatchObject({
      data: { kind: "bad-reply" },
    });
  });

  it("is read where it comes whole under the type of a stream", () => {
    const profile = profileOf("sse", text, { whole: { rules: [{ text: "$.all", finish: "$.end" }] } });
    const events = read(profile, '{"all":"Aye.","end":"done"}');
    expect([textOf(events), last(events)]).toEqual(["Aye.", { event: "end", take: 0, data: { reason: "complete" } }]);
  });

  it("keeps the words of an error whose place nobody named, also after text", () => {
    const detail = (body: string) => {
      const ended = last(read(profileOf("sse", text), body));
      return ended?.event === "problem" ? ended.data.detail : ended?.event;
    };
    const after = 'data: {"t":"Aye"}\n\n';
    const froze = "The provider reports: The harbour froze.";
    expect(detail(`${after}event: error\ndata: {"message":"The harbour froze."}\n\n`)).toBe(froze);
    expect(detail(`${after}event: error\ndata: {"fault":1,"error":{"detail":"The harbour froze."}}\n\n`)).toBe(froze);
    expect(detail(`${after}event: error\ndata: The harbour froze.\n\n`)).toBe(froze);
    expect(detail(`${after}event: error\ndata: {"fault":1}\n\n`)).toBe('The provider reports: {"fault":1}');
    const own = profileOf("sse", [{ when: { event: "error" }, text: "$.t" }]);
    expect(textOf(read(own, 'event: error\ndata: {"t":"Aye"}\n\n'))).toBe("Aye");
  });

  it("has an empty error for none", () => {
    const profile = profileOf("sse", text, { problem: { message: ["$.error.message", "$.error"] } });
    expect(textOf(read(profile, 'data: {"error":{},"t":"Aye"}\n\ndata: {"error":null,"t":"."}\n\n'))).toBe("Aye.");
    expect(last(read(profile, 'data: {"error":"worn out"}\n\n'))).toMatchObject({
      data: { kind: "reported", detail: expect.stringContaining("worn out") },
    });
  });

  it("has calls of tools told apart where their number is left out, or stays the same", () => {
    const calls: Rule[] = [
      { tool: { each: "$.calls[*]", block: "@.n", id: "@.id", name: "@.name", arguments: "@.with" } },
      { finish: "$.end" },
    ];
    const blocksOf = (body: string) =>
      new Set(
        read(profileOf("ndjson", calls), body, lines).flatMap((each) =>
          each.event === "tool" ? [each.data.block] : [],
        ),
      ).size;
    const call = (members: object) => `${JSON.stringify({ calls: [members] })}\n`;
    expect(blocksOf(call({ name: "a", with: "{}" }) + call({ name: "b", with: "{}" }))).toBe(2);
    expect(
      blocksOf(call({ n: 0, id: "1", name: "a", with: "{}" }) + call({ n: 0, id: "2", name: "b", with: "{}" })),
    ).toBe(2);
    expect(
      blocksOf(call({ n: 0, id: "1", name: "a" }) + call({ n: 0, with: "{" }) + call({ n: 0, id: "1", with: "}" })),
    ).toBe(1);
  });
});

describe("events that are not JSON", () => {
  it("are text where a rule reads data as it stands: all of one name, or what is no object and no list", () => {
    const named = profileOf("sse", [
      { when: { event: "token" }, raw: true, text: "$" },
      { when: { event: "tally" }, usage: { input: "$.in", output: "$.out" } },
    ]);
    const body =
      'event: token\ndata: {"a"\n\nevent: token\ndata: : 42}\n\nevent: ping\ndata: 8:10\n\nevent: tally\ndata: {"in":5,"out":2}\n\n';
    const events = read(named, body);
    expect(textOf(events)).toBe('{"a": 42}');
    expect(events.filter(({ event }) => event !== "text")).toEqual([
      { event: "passed-over", take: null, data: { found: "8:10" } },
      { event: "counts", take: null, data: { input: 5, output: 2 } },
      { event: "end", take: 0, data: { reason: "complete" } },
    ]);
    const unnamed = profileOf("sse", [{ raw: true, text: "$" }, { usage: { input: "$.in" } }]);
    expect(textOf(read(unnamed, 'data: Bis\n\ndata: 42\n\ndata: \ndata: \n\ndata: true\n\ndata: {"in":5}\n\n'))).toBe(
      "Bis42\ntrue",
    );
  });

  it.each(["2026-01-15T08:10:00Z", "ping", "[keep-alive]", "- - -", "<!-- x -->"])(
    "are passed over and noted where no rule wants them: %s",
    (heartbeat) => {
      const events = read(profileOf("sse", text), `data: ${heartbeat}\n\ndata: {"t":"Aye."}\n\ndata: \n\n`);
      expect([textOf(events), last(events)?.event]).toEqual(["Aye.", "end"]);
      expect(events.filter(({ event }) => event === "passed-over")).toHaveLength(1);
    },
  );

  it.each(['{"t":"Ay', "[1,", "{", '[{"t":'])("are a bad reply where they were to be JSON: %s", (broken) => {
    expect(last(read(profileOf("sse", text), `data: {"t":"Aye"}\n\ndata: ${broken}\n\n`))).toMatchObject({
      data: { kind: "bad-reply", detail: expect.stringContaining("not JSON") },
    });
  });

  it("are an error where the profile knows one by its name", () => {
    const profile = profileOf("sse", text, { problem: { when: { event: "error" }, message: "$.message" } });
    expect(last(read(profile, 'data: {"t":"Aye"}\n\nevent: error\ndata: the tide is out\n\n'))).toMatchObject({
      data: { kind: "reported", detail: "The provider reports: the tide is out" },
    });
  });
});

describe("a failure that is not framed as the stream is", () => {
  const error = '{"error":{"message":"The quay is closed.","code":7}}';
  const pretty = JSON.stringify(JSON.parse(error), undefined, 2);

  it.each([
    ["sse", "text/event-stream", "", error],
    ["sse", "text/event-stream", 'data: {"t":"Aye"}\n\n', error],
    ["sse", "text/event-stream", 'data: {"t":"Aye"}\n\n', pretty],
    ["sse", "text/event-stream", 'data: {"t":"Aye"}\n\n', `${pretty}\n\n`],
    ["ndjson", "application/x-ndjson", '{"t":"Aye"}\n', pretty],
    ["ndjson", "application/x-ndjson", "", `${pretty}\n`],
    ["sequence", "application/json-seq", '\u001e{"t":"Aye"}\n', `\u001e${pretty}\n`],
    ["array", "application/json", "", pretty],
  ] as const)("is told in the provider's words: %s of %s, after %j", (framing, contentType, before, failure) => {
    const events = read(profileOf(framing, text), before + failure, { contentType });
    expect(textOf(events)).toBe(before === "" ? "" : "Aye");
    expect(last(events)).toMatchObject({
      data: { kind: "reported", detail: "The provider reports: The quay is closed." },
    });
  });

  it.each([
    ["sse", "text/event-stream", 'data: {"t":"Aye"}\n\nupstream fell over\n'],
    ["ndjson", "application/x-ndjson", '{"t":"Aye"}\nupstream fell over\n'],
  ] as const)("keeps its words where they are none that a profile reads: %s", (framing, contentType, body) => {
    const needsEnd = { stream: { framing, rules: text, end: { when: { at: "$.end" } } } } as const;
    expect(last(read(profileOf(framing, text, needsEnd), body, { contentType }))).toMatchObject({
      data: { kind: "broken-off", detail: expect.stringContaining("upstream fell over") },
    });
  });

  it("is read from the first event where a status tells of it and the body is a stream", () => {
    const body = 'event: oops\ndata: {"error":{"message":"No berth."}}\n\n';
    expect(read(profileOf("sse", text), body, { status: 429 })).toEqual([
      expect.objectContaining({
        data: expect.objectContaining({ detail: "The provider answered with status 429: No berth." }),
      }),
    ]);
  });
});

describe("conditions", () => {
  it("can be negated: a code of 0 is well, an event of another name is none of a rule's", () => {
    const profile = profileOf("ndjson", [{ when: { not: { at: "$.kind", is: "note" } }, text: "$.t" }], {
      problem: { when: { at: "$.code", not: { at: "$.code", is: [0, "0"] } }, message: "$.words" },
    });
    const well = '{"code":0,"t":"Aye"}\n{"code":"0","kind":"note","t":" hm"}\n{"t":"."}\n';
    expect(textOf(read(profile, well, lines))).toBe("Aye.");
    expect(last(read(profile, `${well}{"code":31,"words":"No tide."}\n`, lines))).toMatchObject({
      data: { kind: "reported", detail: "The provider reports: No tide." },
    });
  });
});

describe("what stands at one of several places", () => {
  const profile = profileOf(
    "ndjson",
    [
      {
        text: "$.t",
        usage: { input: ["$.usage.in", "$.meta.read", { header: "X-Tokens-In" }], output: { header: "x-tokens-out" } },
      },
    ],
    {
      problem: {
        message: ["$.error.message", "$.detail[0].msg", "$.fault", { header: "x-why" }],
        code: ["$.error.code", "$.fault.code"],
        codes: { full: "overloaded" },
        retryAfter: [
          { header: "x-wait-ms", unit: "ms" },
          { at: "$.again", unit: "s" },
        ],
      },
    },
  );
  const problemAt = (body: string, headers: Record<string, string> = {}) =>
    last(read(profile, body, { status: 503, contentType: "application/json", headers, at: 1_000 }))?.data;

  it("is an error's words, its code, and the wait that it asks for", () => {
    expect(problemAt('{"error":{"message":"A","code":"full"}}')).toMatchObject({ kind: "overloaded" });
    expect(problemAt('{"error":{"message":""},"detail":[{"msg":"B"}],"again":"4s"}')).toMatchObject({
      detail: expect.stringMatching(/: B$/),
      retryAfter: 4,
    });
    expect(problemAt('{"fault":"C","again":4}', { "x-wait-ms": "1500" })).toMatchObject({
      detail: expect.stringMatching(/: C$/),
      retryAfter: 1.5,
    });
    expect(problemAt("", { "x-why": "D" })).toMatchObject({ detail: expect.stringMatching(/: D$/) });
  });

  it("is a count, as a number, as text or in a header", () => {
    const countsOf = (body: string) =>
      read(profile, body, { ...lines, headers: { "x-tokens-in": "11", "x-tokens-out": " 3 " } }).find(
        ({ event }) => event === "counts",
      )?.data;
    expect(countsOf('{"t":"Aye"}\n')).toEqual({ input: 11, output: 3 });
    expect(countsOf('{"t":"Aye","meta":{"read":"8"}}\n')).toEqual({ input: 8, output: 3 });
    expect(countsOf('{"t":"Aye","usage":{"in":7},"meta":{"read":8}}\n')).toEqual({ input: 7, output: 3 });
  });

  it("is a count of a body that is the reply itself", () => {
    const plain = profileOf("text", [{ usage: { output: { header: "x-tokens-out" } } }]);
    const events = read(plain, "Aye, aye.", { contentType: "text/plain", headers: { "x-tokens-out": "3" } });
    expect(textOf(events)).toBe("Aye, aye.");
    expect(events.slice(-2)).toEqual([
      { event: "counts", take: null, data: { output: 3 } },
      { event: "end", take: 0, data: { reason: "complete" } },
    ]);
  });
});

describe("calls of tools", () => {
  it("are read where each event holds all of their arguments so far, as text or as a document", () => {
    const profile = profileOf("ndjson", [
      { tool: { each: "$.calls[*]", id: "@.id", name: "@.name", arguments: "@.with", soFar: true } },
    ]);
    const body = [
      { calls: [{ id: "a", name: "boats", with: '{"day"' }] },
      { calls: [{ id: "a", with: '{"day":"Sunday"' }] },
      {
        calls: [
          { id: "a", with: '{"day":"Sunday"}' },
          { id: "b", name: "fares", with: { n: 1 } },
        ],
      },
      { calls: [{ id: "b", with: { n: 12 } }] },
    ];
    const events = read(profile, body.map((each) => `${JSON.stringify(each)}\n`).join(""), lines);
    expect(events.filter(({ event }) => event === "tool").map(({ data }) => data)).toEqual([
      { block: "0.call 1", id: "a", name: "boats" },
      { block: "0.call 1", id: "a" },
      { block: "0.call 1", id: "a" },
      { block: "0.call 2", id: "b", name: "fares" },
      { block: "0.call 2", id: "b" },
      { block: "0.call 1", arguments: '{"day":"Sunday"}' },
      { block: "0.call 2", arguments: '{"n":12}' },
    ]);
    expect(last(events)).toEqual({ event: "end", take: 0, data: { reason: "tools" } });
  });
});

describe("characters", () => {
  it("never go out by halves, in deltas and in text so far, and one that never ends is a sign", () => {
    const halves = [
      '{"t":"Rad \\ud83d"}',
      '{"t":""}',
      '{"t":"\\udeb2!"}',
      '{"t":"\\ud83d"}',
      '{"t":"x"}',
      '{"t":"\\ud83d"}',
    ];
    const events = read(profileOf("ndjson", text), halves.join("\n"), lines);
    expect(textOf(events)).toBe("Rad 🚲!\ud83dx\uFFFD");
    for (const each of events)
      if (each.event === "text" && !each.data.text.includes("x")) expect(each.data.text).not.toMatch(/\p{Surrogate}/u);
    const soFar = profileOf("ndjson", [{ text: "$.t", soFar: true }]);
    expect(textOf(read(soFar, '{"t":"Rad \\ud83d"}\n{"t":"Rad \\ud83d\\udeb2"}\n', lines))).toBe("Rad 🚲");
  });

  it.each([
    ["text/plain; charset=iso-8859-1", "text", Uint8Array.from([0x52, 0xe4, 0x64, 0x65, 0x72])],
    [
      "application/x-ndjson; charset=utf-16le",
      "ndjson",
      Uint8Array.from([...'{"t":"Räder"}\n'].flatMap((sign) => [sign.charCodeAt(0), 0])),
    ],
    [
      "text/event-stream;charset=windows-1252",
      "sse",
      Uint8Array.from([...'data: {"t":"Räder"}\n\n'].map((sign) => sign.charCodeAt(0))),
    ],
  ] as const)("are read by the charset of %s", (contentType, framing, bytes) => {
    expect(textOf(read(profileOf(framing, text), bytes, { contentType }))).toBe("Räder");
  });
});

describe("framings that are not written as usual", () => {
  it.each([
    ["lines ended by CR", "ndjson", "application/x-ndjson", '{"t":"Aye,"}\r{"t":" aye."}\r'],
    ["lines ended by CR and LF", "ndjson", "application/x-ndjson", '{"t":"Aye,"}\r\n\r\n{"t":" aye."}'],
    ["a text sequence", "sequence", "application/json-seq", '\u001e{"t":"Aye,"}\n\u001e{\n"t":" aye."\n}\n'],
    ["a text sequence without line feeds", "sequence", "application/json-seq", '\u001e{"t":"Aye,"}\u001e{"t":" aye."}'],
    ["lines under another type", "ndjson", "application/json", '{"t":"Aye,"}\n{"t":" aye."}\n'],
    ["lines under the type of plain text", "ndjson", "text/plain; charset=utf-8", '\n{"t":"Aye,"}\n{"t":" aye."}\n'],
    ["lines without a type", "ndjson", "", '{"t":"Aye,"}\n{"t":" aye."}\n'],
    ["events under another type", "sse", "text/plain", ': hello\ndata: {"t":"Aye,"}\n\ndata: {"t":" aye."}\n\n'],
    ["an array under another type", "array", "application/octet-stream", '[{"t":"Aye,"},{"t":" aye."}]'],
    ["a sequence under another type", "sequence", "application/json", '\u001e{"t":"Aye,"}\n\u001e{"t":" aye."}\n'],
  ] as const)("are read: %s", (_what, framing, contentType, body) => {
    const events = read(profileOf(framing, text), body, { contentType });
    expect([textOf(events), last(events)?.event]).toEqual(["Aye, aye.", "end"]);
  });

  it("are told from a whole answer of the same type", () => {
    const both = profileOf("ndjson", text, { whole: { rules: [{ text: "$.all" }] } });
    const json = { contentType: "application/json" };
    expect(textOf(read(both, '{"t":"Aye,"}\n{"t":" aye."}\n', json))).toBe("Aye, aye.");
    expect(textOf(read(both, '{"all":"Aye."}\n', json))).toBe("Aye.");
    expect(textOf(read(both, '{\n  "all": "Aye."\n}\n', json))).toBe("Aye.");
    expect(textOf(read(both, '{"all":"Aye."}', { ...json, streamed: false }))).toBe("Aye.");
  });

  it("are read in time that grows with their bytes, however odd their lines are", () => {
    const sequence = profileOf("sequence", text);
    const odd = { contentType: "application/json-seq" };
    const many = `\u001e[\n${"1\n".repeat(100_000)}`;
    expect(last(read(sequence, many, odd))?.event).toBe("problem");
    const lineEnds = profileOf("ndjson", text, { whole: { rules: [{ text: "$.all" }] } });
    const json = { contentType: "application/json" };
    expect(textOf(read(lineEnds, `${"\n".repeat(200_000)}{"all":"Aye."}`, json))).toBe("Aye.");
    expect(textOf(read(lineEnds, `{"all":"${"x".repeat(200_000)}"}`, json))).toHaveLength(200_000);
    expect(textOf(read(lineEnds, `{"all":"Aye."}${"\n ".repeat(100_000)}`, json))).toBe("Aye.");
    expect(last(read(lineEnds, `{\n${"}\n".repeat(2_000)}`, lines))?.event).toBe("problem");
  });

  it("hand on what is whole before what comes next has begun", () => {
    const decoder = createDecoder(profileOf("sequence", text), { status: 200, contentType: "application/json-seq" });
    expect(decoder.feed(new TextEncoder().encode('\u001e{"t":"Aye"}\n'))).toHaveLength(1);
    const lazy = createDecoder(profileOf("ndjson", text), { status: 200, contentType: "text/plain" });
    expect(lazy.feed(new TextEncoder().encode('{"t":"Aye"}\n'))).toHaveLength(1);
  });
});

describe("what an answer says of itself", () => {
  it("is the model's version, once and where it changes, within bounds", () => {
    const profile = profileOf("ndjson", [{ text: "$.t", version: "$.model" }]);
    const body = ["reed-deep-2", "reed-deep-2", "", "x".repeat(500)].map((model) => JSON.stringify({ t: "A", model }));
    expect(
      read(profile, body.join("\n"), lines).flatMap((each) =>
        each.event === "version" ? each.data.version.length : [],
      ),
    ).toEqual([11, 200]);
  });

  it("is the sources that it names, within bounds", () => {
    const profile = profileOf("ndjson", [
      { text: "$.t", sources: { each: "$.from[*]", title: "@.name", address: "@.at", text: "@.quote" } },
    ]);
    const from = [{ name: "Timetable", at: "https://ferry.test/t" }, { quote: "q".repeat(3_000) }, {}, "x"];
    const sources = (body: object) =>
      read(profile, JSON.stringify(body), lines).flatMap((each) => (each.event === "source" ? [each.data] : []));
    expect(sources({ t: "Aye", from })).toEqual([
      { title: "Timetable", address: "https://ferry.test/t", text: undefined },
      { title: undefined, address: undefined, text: "q".repeat(2_000) },
    ]);
    expect(sources({ t: "Aye", from: Array.from({ length: 400 }, () => ({ name: "n" })) })).toHaveLength(50);
  });
});
