import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { formIn, restOf, shaped } from "./form";
import { sentencesOf } from "./words";

const list =
  "Three boats leave:\n\n- **8:10**, four places\n- **9:40**, eight places, with a ramp\n- **13:15**, four places";
const prose =
  "Fog is a cloud that lies on the ground. Air cools near it. Over a marsh it forms first. It lifts by noon.";

describe("the form that a message asks for", () => {
  it.each([
    ["as a table", { kind: "table" }],
    ["Put that in a markdown table please", { kind: "table" }],
    ["now as bullet points", { kind: "list" }],
    ["as numbered steps", { kind: "steps" }],
    ["as JSON", { kind: "json" }],
    ["in two paragraphs without bullets", { kind: "paragraphs", paragraphs: 2, isPlain: true }],
    ["as running text", { kind: "paragraphs", paragraphs: 1 }],
    ["shorter", { isShorter: true }],
    ["in one sentence", { sentences: 1 }],
    ["in at most 20 words", { words: 20 }],
    ["From now on answer as a list", { kind: "list", stays: true }],
    ["When is the timetable out?", undefined],
  ])("%s", (message, form) => {
    expect(formIn(message)).toEqual(form);
  });

  it.each([
    ["Could you put that in a table, please?", ""],
    ["your explanation of tides as a list", "explanation tides"],
    ["make it shorter", ""],
  ])("leaves of “%s” what it is wanted of", (message, rest) => {
    expect(restOf(message)).toBe(rest);
  });
});

describe("a text in a form", () => {
  it("goes from a list to a table, to JSON and back, with all that it holds", () => {
    const table = shaped(list, { kind: "table" });
    expect(table).toContain("| 9:40 | eight places | with a ramp |");
    const back = shaped(table, { kind: "list" });
    for (const cell of ["8:10", "eight places", "with a ramp"]) expect(back).toContain(cell);
    expect(JSON.parse(shaped(table, { kind: "json" }))).toHaveLength(3);
    expect(shaped(shaped(prose, { kind: "json" }), { kind: "table" })).toContain(
      "| Fog is a cloud that lies on the ground. |",
    );
  });

  it("is cut into as many paragraphs, sentences, words and characters as were asked for", () => {
    expect(shaped(prose, { kind: "paragraphs", paragraphs: 2 }).split("\n\n")).toHaveLength(2);
    expect(sentencesOf(shaped(prose, { sentences: 2 }))).toHaveLength(2);
    expect(shaped(prose, { words: 6 })).toBe("Fog is a cloud that lies.");
    expect(shaped(prose, { characters: 50 })).toBe("Fog is a cloud that lies on the ground.");
    expect(shaped(list, { isPlain: true })).not.toMatch(/[*|]|^- /m);
    expect(shaped(prose, { isShorter: true }).length).toBeLessThan(prose.length);
  });

  it("is a document that can be parsed, whatever the text", () => {
    fc.assert(
      fc.property(
        fc.array(fc.oneof(fc.string(), fc.constantFrom("- a", "| a | b |", "| --- | --- |", "# h", "```", "1. x: y"))),
        (lines) => {
          expect(() => JSON.parse(shaped(lines.join("\n"), { kind: "json" }))).not.toThrow();
        },
      ),
    );
  });
});
