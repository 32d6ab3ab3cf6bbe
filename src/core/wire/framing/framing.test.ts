import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { ArrayCutter } from "./array";
import type { Cutter } from "./framing";
import { framingIn } from "./framings";
import { NdjsonCutter } from "./ndjson";
import { SseCutter } from "./sse";

/** The data of all events of a text that comes cut at these places. */
function dataOf(framing: Cutter, text: string, cuts: number[] = []): string[] {
  const at = [0, ...cuts.map((cut) => Math.min(cut, text.length)).sort((a, b) => a - b), text.length];
  const chunks = at.slice(1).map((end, i) => text.slice(at[i], end));
  return [...chunks.flatMap((chunk) => framing.feed(chunk)), ...framing.close()].map(({ data }) => data);
}

/** Values that writing as JSON and reading again leaves as they are: JSON has no -0. */
const values = fc
  .oneof(fc.jsonValue(), fc.dictionary(fc.string(), fc.string()))
  .map((value) => JSON.parse(JSON.stringify(value)));
const documents = fc.array(values, { maxLength: 6 });
const cuts = fc.array(fc.nat(400), { maxLength: 12 });
const spaces = fc.constantFrom("", " ", "\n", " \n\t");

describe("framing, however it is cut", () => {
  it("finds every element of a JSON array, and nothing else", () => {
    fc.assert(
      fc.property(documents, cuts, spaces, spaces, (values, places, before, after) => {
        const text = `${before}[${values.map((value) => `${before}${JSON.stringify(value)}${after}`).join(",")}]${after}`;
        const framing = new ArrayCutter();
        expect(dataOf(framing, text, places).map((data) => JSON.parse(data))).toEqual(values);
        expect(framing.isOpen).toBe(false);
      }),
    );
  });

  it("finds every line of NDJSON, whether the last one ends or not", () => {
    fc.assert(
      fc.property(documents, cuts, fc.boolean(), (values, places, ends) => {
        const text = values.map((value) => JSON.stringify(value)).join("\n") + (ends ? "\n" : "");
        expect(dataOf(new NdjsonCutter(), text, places).map((data) => JSON.parse(data))).toEqual(values);
      }),
    );
  });

  it("finds every server-sent event, with data over several lines", () => {
    const line = fc.string().map((text) => text.replace(/[\r\n]/g, ""));
    fc.assert(
      fc.property(
        fc.array(fc.array(line, { minLength: 1, maxLength: 3 }), { maxLength: 5 }),
        cuts,
        fc.constantFrom("\n", "\r", "\r\n"),
        (events, places, end) => {
          const text = events.map((lines) => `${lines.map((each) => `data: ${each}`).join(end)}${end}${end}`).join("");
          expect(dataOf(new SseCutter(), text, places)).toEqual(events.map((lines) => lines.join("\n")));
        },
      ),
    );
  });
});

describe("framing an array that is none, or is not whole", () => {
  it("gives a body that begins otherwise as one event, when it closes", () => {
    expect(dataOf(new ArrayCutter(), ' {"trouble": [1, 2]}', [3, 9])).toEqual(['{"trouble": [1, 2]}']);
  });

  it("hands an element on as soon as it is whole, and knows that the array was not closed", () => {
    const framing = new ArrayCutter();
    expect(framing.feed('[{"a": "]}"}').map(({ data }) => data)).toEqual(['{"a": "]}"}']);
    expect(framing.feed(',{"b":')).toEqual([]);
    expect([framing.close(), framing.isOpen]).toEqual([[], true]);
  });
});

describe("a body that is looked at", () => {
  it.each([
    ["sse", 'event: a\ndata: {"x":1}\n\n'],
    ["sse", ': hello\r\ndata: {"x":1}\r\n\r\n'],
    ["json", '{\n  "x": 1\n}'],
    ["json", '{"x":1}\n'],
    ["ndjson", '{"x":1}\n{"x":2}\n'],
    ["ndjson", '{"x":1}\n{"x"'],
    ["array", '[{"x":1},\n{"x":2}]'],
    ["array", '[{"x":1},\n{"x"'],
    ["array", "[]"],
    ["text", "The 9:40 runs."],
    ["text", "data is what I want"],
    ["text", ""],
  ])("is %s: %j", (name, body) => {
    expect(framingIn(body)).toBe(name);
  });
});
