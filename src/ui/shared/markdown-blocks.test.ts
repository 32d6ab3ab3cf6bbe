import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { blocksOf } from "./markdown-blocks";

describe("cutting Markdown into blocks", () => {
  it("cuts at blank lines", () => {
    expect(blocksOf("# One\n\ntwo\nthree\n\n| a |\n| - |")).toEqual(["# One\n", "two\nthree\n", "| a |\n| - |"]);
  });

  it("keeps a fence whole, blank lines and other fences in it too", () => {
    const code = "```ts\nlet a;\n\n~~~\nlet b;\n```";
    expect(blocksOf(`before\n\n${code}\n\nafter`)).toEqual(["before\n", `${code}\n`, "after"]);
  });

  it("keeps a fence that is not closed yet whole", () => {
    expect(blocksOf("```\na\n\nb\n\nc")).toHaveLength(1);
  });

  it("keeps a loose list in one block, so that its numbers go on", () => {
    expect(blocksOf("1. one\n\n2. two\n\n   more of two\n\nafter")).toEqual([
      "1. one\n\n2. two\n\n   more of two\n",
      "after",
    ]);
  });

  it("loses nothing, and changes none but the last block when text is added", () => {
    const line = fc.constantFrom("", "", "text", "- item", "```", "~~~", "  more", "| a |", "# head");
    fc.assert(
      fc.property(fc.array(line, { maxLength: 20 }), fc.array(line, { minLength: 1, maxLength: 5 }), (before, more) => {
        const first = blocksOf(before.join("\n"));
        const both = [...before, ...more].join("\n");
        expect(blocksOf(both).slice(0, Math.max(first.length - 1, 0))).toEqual(first.slice(0, -1));
        expect(blocksOf(both).join("\n").replace(/\s+/g, " ").trim()).toBe(both.replace(/\s+/g, " ").trim());
      }),
    );
  });
});
