import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { longestSaid, mostRows, mostSaid, readRows, readRowsFile, writtenRows } from "./rows";

const rowsIn = (text: string) => readRows(text).rows;

describe("a set that is typed", () => {
  it("has a message a line, and an indented line goes on with the conversation above it", () => {
    expect(rowsIn("Which boats?\n\n  And on Sunday?\r\n\tAnd back?\nWhat does a dog cost?  \n")).toEqual([
      ["Which boats?", "And on Sunday?", "And back?"],
      ["What does a dog cost?"],
    ]);
    expect(rowsIn("  alone")).toEqual([["alone"]]);
  });

  it("writes a message with line breaks as a JSON string, and says where one is none", () => {
    expect(rowsIn('"one\\ntwo"')).toEqual([["one\ntwo"]]);
    expect(readRows('fine\n"open')).toEqual({
      rows: [["fine"]],
      faults: [{ line: 2, why: "begins with a quote, and is no JSON string" }],
    });
  });

  it("is read back as it was written, whatever is said", () => {
    const said = fc.string({ unit: "binary", minLength: 1, maxLength: 40 }).filter((text) => text.trim() !== "");
    const rows = fc.array(fc.array(said, { minLength: 1, maxLength: 4 }), { maxLength: 6 });
    fc.assert(
      fc.property(rows, (all) => {
        expect(readRows(writtenRows(all))).toEqual({ rows: all, faults: [] });
      }),
    );
  });

  it("says what is too much instead of cutting it", () => {
    const many = Array.from({ length: mostRows + 1 }, (_, at) => `message ${at}`).join("\n");
    expect(readRows(many).faults).toHaveLength(1);
    expect(readRows("a".repeat(longestSaid + 1)).faults[0]?.why).toContain("longer than");
    expect(readRows(["a", ...Array.from({ length: mostSaid }, () => "  b")].join("\n")).faults[0]?.why).toContain(
      "more than",
    );
  });
});

describe("a file of messages", () => {
  it("is JSON Lines of texts, lists, and objects, as a set is downloaded too", () => {
    const lines = ['"one"', '["two","three"]', '{"message":"four"}', '{"messages":["five"],"answers":[]}'];
    expect(readRowsFile("a.jsonl", lines.join("\n")).rows).toEqual([["one"], ["two", "three"], ["four"], ["five"]]);
    expect(readRowsFile("a.jsonl", '"one"\n{"text":1}\nnot json').faults.map(({ line }) => line)).toEqual([2, 3]);
  });

  it("is columns: the one headed message, or the first of those without a head", () => {
    expect(readRowsFile("a.csv", 'id,Message\n1,"Which boats,\nand when?"\n2,\n').rows).toEqual([
      ["Which boats,\nand when?"],
    ]);
    expect(readRowsFile("a.csv", "Which boats?;x\nAnd back?;y").rows).toEqual([["Which boats?"], ["And back?"]]);
    expect(readRowsFile("a.csv", 'a,"b').faults[0]?.why).toContain("columns");
  });

  it("is text as it is typed otherwise", () => {
    expect(readRowsFile("a.txt", "one\n  two").rows).toEqual([["one", "two"]]);
  });
});
