import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Block, blocksOf, Cutter } from "./cut";

const texts = (text: string) => blocksOf(text).map((block) => block.text);
/** The text that blocks show, without what is only there so that each can be read by itself. */
const shown = (blocks: readonly Block[]) =>
  blocks
    .map(({ text }) => text)
    .join("")
    .replace(/\s+/g, "");

describe("cutting Markdown into blocks", () => {
  it("cuts at blank lines", () => {
    expect(texts("# One\n\ntwo\nthree\n\n| a |\n| - |")).toEqual(["# One\n\n", "two\nthree\n\n", "| a |\n| - |"]);
  });

  it("keeps a fence whole, blank lines and other fences in it too, wherever it begins", () => {
    const code = "```ts\nlet a;\n\n~~~\nlet b;\n```\n";
    expect(texts(`before\n${code}after`)).toEqual(["before\n", code, "after"]);
    expect(texts("```\na\n\nb\n\nc")).toHaveLength(1);
  });

  it("keeps a loose list in one block, so that its numbers go on, and a fence inside of it", () => {
    expect(texts("1. one\n\n2. two\n\n   more of two\n\nafter\n")).toEqual([
      "1. one\n\n2. two\n\n   more of two\n\n",
      "after\n",
    ]);
    expect(texts("- one\n\n  ```\n  a\n\n  b\n  ```\n\n- two")).toHaveLength(1);
  });

  it("cuts a long list between items, and a long paragraph between words", () => {
    const list = Array.from({ length: 100 }, (_, at) => `${at + 1}. item\n`).join("");
    expect(blocksOf(list).map(({ text, joins }) => [text.split("\n")[0], joins])).toEqual([
      ["1. item", "no"],
      ["31. item", "block"],
      ["61. item", "block"],
      ["91. item", "block"],
    ]);
    const words = blocksOf("word ".repeat(3_000));
    expect(words.length).toBeGreaterThan(3);
    expect(words.slice(1).every(({ joins, text }) => joins === "line" && text.startsWith("word"))).toBe(true);
  });

  it("cuts a long table, with its head in each part", () => {
    const head = "| boat | time |\n| --- | --- |\n";
    const rows = Array.from({ length: 100 }, (_, at) => `| ${at} | 9:40 |\n`);
    const parts = blocksOf(head + rows.join(""));
    expect(parts.map(({ text, joins }) => [text.startsWith(head), text.split("\n").length - 3, joins])).toEqual([
      [true, 40, "no"],
      [true, 40, "block"],
      [true, 20, "block"],
    ]);
  });

  it("cuts a long fence into parts of code without its marks, and goes on after it", () => {
    const lines = Array.from({ length: 300 }, (_, at) => `line ${at}\n`);
    const parts = blocksOf(`\`\`\`ts\n${lines.join("")}\`\`\`\nafter`);
    expect(parts.slice(0, -1).map(({ kind, fence }) => [kind, fence])).toEqual(Array(6).fill(["code", 1]));
    expect(
      parts
        .slice(0, -1)
        .map(({ text }) => text)
        .join(""),
    ).toBe(lines.join(""));
    expect(parts.at(-1)).toMatchObject({ kind: "text", text: "after" });
  });

  const line = fc.constantFrom(
    "",
    "",
    "text",
    "- item",
    "```",
    "~~~",
    "  more",
    "| a |",
    "| - |",
    "> quote",
    "# head",
    "x".repeat(5_000),
  );

  it("loses nothing but the marks of cut fences, and gives the same however the text comes", () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 40 }), fc.array(fc.nat(5_000), { maxLength: 8 }), (lines, cuts) => {
        const text = lines.join("\n");
        const cutter = new Cutter();
        let at = 0;
        for (const cut of cuts) {
          at = Math.min(at + cut, text.length);
          cutter.take(text.slice(0, at));
        }
        cutter.take(text);
        const inParts = cutter.open ? [...cutter.closed, cutter.open] : cutter.closed;
        expect(inParts).toEqual(blocksOf(text));
        const marks = /`{3}|~{3}/g;
        const heads = /\|a\||\|-\|/g;
        const plain = (all: string) => all.replace(marks, "").replace(heads, "");
        expect(plain(shown(inParts))).toBe(plain(text.replace(/\s+/g, "")));
      }),
      { numRuns: 300 },
    );
  });

  it("never changes a block that is closed", () => {
    fc.assert(
      fc.property(
        fc.array(line, { maxLength: 20 }),
        fc.array(line, { minLength: 1, maxLength: 20 }),
        (before, more) => {
          const cutter = new Cutter();
          cutter.take(before.join("\n"));
          const closed = [...cutter.closed];
          cutter.take([...before, ...more].join("\n"));
          expect(cutter.closed.slice(0, closed.length)).toEqual(closed);
        },
      ),
    );
  });

  it("begins anew for another text", () => {
    const cutter = new Cutter();
    cutter.take("one\n\ntwo");
    cutter.take("three");
    expect([cutter.closed, cutter.open?.text]).toEqual([[], "three"]);
  });
});
