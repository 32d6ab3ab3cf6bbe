import { describe, expect, it } from "vitest";
import type { ReadEvent } from "../../reply/events";
import { createDecoder } from "../decode";
import { type AnswerHead, isLow, rateLimitsIn } from "../failure";
import { compileProfile } from "../profile";
import type { Rule, WrittenProfile } from "../profile-schema";

/** A profile of JSON lines with these rules. */
function lines(
  rules: Rule[],
  change: Partial<WrittenProfile["answer"]> = {},
  finishWords: WrittenProfile["finishWords"] = { "*": "complete" },
) {
  return compileProfile({
    profile: 1,
    shape: "Lines",
    request: { method: "POST", path: "/", headers: {} },
    roles: { visitor: "v", app: "a", prompt: "first" },
    answer: {
      stream: { framing: "ndjson", rules, end: { when: { at: "$.end" } } },
      problem: { message: "$.error" },
      ...change,
    },
    finishWords,
  });
}

function read(profile: ReturnType<typeof lines>, documents: unknown[], head: Partial<AnswerHead> = {}): ReadEvent[] {
  const decoder = createDecoder(profile, { status: 200, contentType: "application/x-ndjson", ...head });
  const bytes = new TextEncoder().encode(documents.map((each) => `${JSON.stringify(each)}\n`).join(""));
  return [...decoder.feed(bytes), ...decoder.close()];
}

const end = { end: true };

describe("rules", () => {
  it("keep text so far apart by block and by take", () => {
    const profile = lines([{ block: "$.b", take: "$.t", text: "$.sofar", soFar: true }]);
    const events = read(profile, [
      { b: 1, sofar: "A" },
      { b: 2, sofar: "B" },
      { b: 1, sofar: "Aa" },
      { t: 1, b: 1, sofar: "Z" },
      { b: 2, sofar: "Bb" },
      end,
    ]);
    expect(events.map(({ take, data }) => [take, data])).toEqual([
      [0, { text: "A" }],
      [0, { text: "B" }],
      [0, { text: "a" }],
      [1, { text: "Z" }],
      [0, { text: "b" }],
      [0, { reason: "complete" }],
      [1, { reason: "complete" }],
    ]);
  });

  it("read no more takes than anybody asks for", () => {
    const profile = lines([{ take: "$.t", text: "$.x" }]);
    const events = read(profile, [{ x: "A" }, ...Array.from({ length: 10_000 }, (_, t) => ({ t, x: "B" })), end]);
    expect(new Set(events.map(({ take }) => take)).size).toBe(16);
    expect(events.filter(({ event }) => event === "end")).toHaveLength(16);
  });

  it("take nothing anew from text so far that comes late, and name text that was changed", () => {
    const profile = lines([{ text: "$.sofar", soFar: true }]);
    expect(read(profile, [{ sofar: "Aye, " }, { sofar: "Aye" }, { sofar: "Aye, sir" }, end]).slice(0, 2)).toEqual([
      { event: "text", take: 0, data: { text: "Aye, " } },
      { event: "text", take: 0, data: { text: "sir" } },
    ]);
    expect(read(profile, [{ sofar: "Aye, the boat" }, { sofar: "No, sir" }, end]).at(-1)).toMatchObject({
      data: { kind: "bad-reply", detail: expect.stringContaining("no longer begins") },
    });
  });

  it("go on behind text so far that was mended, and say how", () => {
    const profile = lines([{ text: "$.sofar", soFar: true }]);
    const told = (...texts: string[]) => read(profile, [...texts.map((sofar) => ({ sofar })), end]).slice(0, -1);
    expect(told("The bout to Mill", "The boat to Mill Quay", "The boat to Mill Quay runs.")).toEqual([
      { event: "text", take: 0, data: { text: "The bout to Mill" } },
      { event: "mended", take: 0, data: { was: "ut to Mill", is: "at to Mill Quay" } },
      { event: "text", take: 0, data: { text: " Quay" } },
      { event: "text", take: 0, data: { text: " runs." } },
    ]);
    expect(told("At 8:10 from the quayy", "At 8:10 from the quay.", "At 8:10 from the quay. Come.").slice(1)).toEqual([
      { event: "mended", take: 0, data: { was: "y", is: "." } },
      { event: "text", take: 0, data: { text: " Come." } },
    ]);
    expect(told("Rad 🚲 und", "Rad 🚴 und Boot").at(-1)).toEqual({ event: "text", take: 0, data: { text: " Boot" } });
  });

  it("hold only under their conditions: a value, one of several, or that something is there", () => {
    const rules: Rule[] = [
      { when: { at: "$.kind", is: ["a", 2] }, text: "$.x" },
      { when: { at: "$.flag" }, thought: "$.x" },
    ];
    const events = read(lines(rules), [
      { kind: "a", x: "1" },
      { kind: 2, x: "2" },
      { kind: "b", x: "3" },
      { flag: false, x: "4" },
      { flag: null, x: "5" },
      end,
    ]);
    expect(events.slice(0, -1).map(({ event, data }) => [event, (data as { text: string }).text])).toEqual([
      ["text", "1"],
      ["text", "2"],
      ["thought", "4"],
    ]);
  });

  it("add counts up where they are told to, and leave alone what is no count", () => {
    const counted = (adds: boolean) =>
      read(lines([{ text: "$.x", usage: { output: "$.n", input: "$.m", adds } }]), [
        { x: "a", n: 2, m: -1 },
        { n: 3, m: "4 or so" },
        end,
      ]).find(({ event }) => event === "counts")?.data;
    expect(counted(true)).toEqual({ output: 5 });
    expect(counted(false)).toEqual({ output: 3 });
  });

  it.each([
    [true, 110],
    [false, 100],
  ])("count input with what was cached, also where the API counts that beside it: %s", (cacheIsBeside, input) => {
    const usage = { input: "$.in", cachedInput: "$.c", cacheWrite: "$.w", cacheIsBeside };
    const events = read(lines([{ text: "$.x", usage }]), [{ in: 100, c: 8, w: 2 }, end]);
    expect(events.find(({ event }) => event === "counts")?.data).toEqual({ input, cachedInput: 8, cacheWrite: 2 });
  });

  it("take counts as text, and leave out what no provider can have counted, saying so once", () => {
    const profile = lines([{ text: "$.x", usage: { input: "$.in", output: "$.out", thought: "$.th" } }]);
    const events = read(profile, [{ x: "a", in: "41", out: 9e15, th: 2.5 }, { in: "41", out: "1e3", th: -1 }, end]);
    expect(events).toEqual([
      { event: "text", take: 0, data: { text: "a" } },
      { event: "left-out", take: null, data: { count: "output", found: "9000000000000000" } },
      { event: "left-out", take: null, data: { count: "thought", found: "2.5" } },
      { event: "counts", take: null, data: { input: 41 } },
      { event: "end", take: 0, data: { reason: "complete" } },
    ]);
    const infinite = createDecoder(profile, { status: 200, contentType: "application/x-ndjson" });
    expect(infinite.feed(new TextEncoder().encode('{"x":"a","in":1e999}\n'))).toContainEqual({
      event: "left-out",
      take: null,
      data: { count: "input", found: "Infinity" },
    });
  });

  it("stay below the bound where counts are added up", () => {
    const profile = lines([{ text: "$.x", usage: { input: "$.in", adds: true } }]);
    const counts = read(profile, [{ x: "a", in: 999_999_999 }, { in: 2 }, end]).find(({ event }) => event === "counts");
    expect(counts?.data).toEqual({ input: 999_999_999 });
  });

  it("take an empty finish word for none", () => {
    const profile = lines([{ text: "$.x", finish: "$.why" }]);
    expect(read(profile, [{ x: "Half a", why: "" }]).at(-1)).toMatchObject({ data: { kind: "broken-off" } });
  });

  it("take the close of a stream for its end only where nothing says why it finishes", () => {
    const closing = (finish: Rule) =>
      lines([{ text: "$.x", ...finish }], {
        stream: { framing: "ndjson", rules: [{ text: "$.x", ...finish }], end: "close" },
      });
    expect(read(closing({}), [{ x: "All" }]).at(-1)).toMatchObject({ event: "end" });
    expect(read(closing({ finish: "$.why" }), [{ x: "Half" }]).at(-1)).toMatchObject({ data: { kind: "broken-off" } });
    expect(read(closing({ finish: "$.why" }), [{ x: "All", why: "sated" }]).at(-1)).toMatchObject({ event: "end" });
  });

  it("leave out events whose number or id was seen, where the profile says that they are counted up", () => {
    const sse = (number: string | undefined) =>
      compileProfile({
        ...lines([]).source,
        answer: {
          stream: { framing: "sse", number, rules: [{ text: "$.x" }], end: "close" },
          problem: { message: "$.error" },
        },
      });
    const bytes = new TextEncoder().encode(
      `${[
        'id: 2\ndata: {"x":"a"}',
        'id: 2\ndata: {"x":"a"}',
        'data: {"x":"c"}',
        'id: 1\ndata: {"x":"d"}',
        // the counter begins anew
        'id: 2\ndata: {"x":"e"}',
        'id: 1\ndata: {"x":"d"}',
        'id: 1\ndata: {"x":"d"}',
      ].join("\n\n")}\n\n`,
    );
    const textOf = (number?: string) => {
      const decoder = createDecoder(sse(number), { status: 200, contentType: "text/event-stream" });
      return decoder.feed(bytes).map(({ data }) => (data as { text: string }).text);
    };
    expect(textOf()).toEqual(["a", "a", "c", "d", "e", "d", "d"]);
    expect(textOf("id")).toEqual(["a", "c", "d", "e", "d"]);
  });

  it("end in events and problems for values nested 100,000 deep, wherever they stand", () => {
    const deep = `${"[".repeat(100_000)}${"]".repeat(100_000)}`;
    const everywhere = lines(
      [
        { when: { at: "$.on", is: 1 }, take: "$.v", block: "$.v", remember: "$.v", finish: "$.v", carry: "$.v" },
        { text: "$.x", tool: { arguments: "$.v" }, usage: { input: "$.v" } },
      ],
      { problem: { message: "$.error", code: "$.code", retryAfter: { at: "$.wait" } } },
    );
    const readText = (text: string) => {
      const decoder = createDecoder(everywhere, { status: 200, contentType: "application/x-ndjson" });
      return [...decoder.feed(new TextEncoder().encode(`${text}\n`)), ...decoder.close()];
    };
    expect(readText(`{"x":"a","on":1,"v":${deep}}`).map(({ event }) => event)).toEqual([
      "text",
      "tool",
      "left-out",
      "problem",
    ]);
    expect(readText(`{"error":${deep},"code":${deep},"wait":${deep}}`).at(-1)).toMatchObject({
      data: { kind: "reported", detail: expect.stringContaining("nested more than 200 levels") },
    });
  });

  it("map finish words, others by *, and name one that has no word", () => {
    const rules: Rule[] = [{ text: "$.x", finish: "$.why" }];
    const last = (finishWords: WrittenProfile["finishWords"], why: unknown) =>
      read(lines(rules, {}, finishWords), [{ x: "a" }, { why, ...end }]).at(-1);
    expect(last({ cap: "length" }, "cap")).toEqual({ event: "end", take: 0, data: { reason: "length" } });
    expect(last({ "7": "refused" }, 7)).toEqual({ event: "end", take: 0, data: { reason: "refused" } });
    expect(last({ "*": "complete" }, "anything")).toEqual({ event: "end", take: 0, data: { reason: "complete" } });
    expect(last({ cap: "length" }, "toString")).toMatchObject({
      data: { kind: "bad-reply", detail: expect.stringContaining('"toString"') },
    });
  });

  it("end a reply that is a tool call alone for its tools", () => {
    const profile = lines([{ tool: { name: "$.tool", arguments: "$.with" } }]);
    expect(read(profile, [{ tool: "timetable", with: { day: "Sunday" } }, end])).toEqual([
      { event: "tool", take: 0, data: { block: "0.call 1", name: "timetable", arguments: '{"day":"Sunday"}' } },
      { event: "end", take: 0, data: { reason: "tools" } },
    ]);
  });
});

describe("failures", () => {
  it.each([
    [
      "in a header, in milliseconds",
      { retryAfter: { header: "X-Wait", unit: "ms" } },
      { headers: { "x-wait": "2500" } },
      {},
      2.5,
    ],
    ["in the body, in seconds", { retryAfter: { at: "$.wait" } }, {}, { wait: 4 }, 4],
    ["nowhere, as no time at all", {}, {}, { wait: 4 }, undefined],
    ["in the standard header first", { retryAfter: { at: "$.wait" } }, { retryAfter: 9 }, { wait: 4 }, 9],
  ])("say how long to wait %s", (_what, change, head, body, seconds) => {
    const problem = {
      message: "$.error",
      statuses: { "429": "rate-limited" },
      ...change,
    } as WrittenProfile["answer"]["problem"];
    const [event] = read(lines([], { problem }), [{ error: "slow", ...body }], {
      status: 429,
      contentType: "application/json",
      ...head,
    });
    expect(event).toMatchObject({ data: { kind: "rate-limited" } });
    expect(event?.event === "problem" && event.data.retryAfter).toBe(seconds);
  });

  it("tell what is left of rate limits, from headers and from the body", () => {
    const profile = lines([], {
      limits: [
        { of: "calls", left: { header: "X-Left" }, most: { header: "x-most" } },
        { of: "tokens", left: { at: "$.left" }, resets: { at: "$.anew" } },
        { of: "nothing", left: { header: "x-none" } },
      ],
    });
    expect([isLow({ of: "calls", left: "6", most: "60" }), isLow({ of: "calls", left: "7", most: "60" })]).toEqual([
      true,
      false,
    ]);
    expect([isLow({ of: "calls", left: "few", most: "60" }), isLow({ of: "calls", left: "1" })]).toEqual([
      false,
      false,
    ]);
    expect(rateLimitsIn(profile, { "x-left": "3", "x-most": "10" }, [{ left: 8 }, { left: 7, anew: "1m" }])).toEqual([
      { of: "calls", left: "3", most: "10", resets: undefined },
      { of: "tokens", left: "7", most: undefined, resets: "1m" },
    ]);
  });
});
