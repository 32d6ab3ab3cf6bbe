import { describe, expect, it } from "vitest";
import { blocksOfMarkdown } from "./markdown";
import { blocksOfTable, UnreadableTable } from "./table";
import { blocksOfText } from "./text";

describe("a plain text", () => {
  it("is paragraphs, and pages where form feeds part it", () => {
    expect(blocksOfText("One\nline.\r\n\r\nTwo.\n \nThree.")).toEqual([
      { kind: "paragraph", text: "One\nline." },
      { kind: "paragraph", text: "Two." },
      { kind: "paragraph", text: "Three." },
    ]);
    expect(blocksOfText("One.\fTwo.").map(({ page }) => page)).toEqual([1, 2]);
    expect(blocksOfText("\uFEFF \n\n")).toEqual([]);
  });
});

describe("Markdown", () => {
  it("is headings, paragraphs, rows with the names of their columns, and code", () => {
    const text = [
      "# Rules of *the line*",
      "A [bicycle](x.md) costs **€2.00** &amp; needs a place.",
      "- dogs travel free\n- cats\n  - in a basket",
      "| Time | To |\n|---|---|\n| 9:40 | Tansy Holm |\n| 8:10 | |",
      "```\nring twice\n```",
      "> Mind the step.",
      "<p>By <b>hand</b></p><script>alert(1)</script>",
      "---",
      "![the quay](quay.png)",
    ].join("\n\n");
    expect(blocksOfMarkdown(text)).toEqual([
      { kind: "heading", level: 1, text: "Rules of the line" },
      { kind: "paragraph", text: "A bicycle costs €2.00 & needs a place." },
      { kind: "paragraph", text: "- dogs travel free\n- cats\n  - in a basket" },
      { kind: "row", row: 1, text: "Time: 9:40; To: Tansy Holm" },
      { kind: "row", row: 2, text: "Time: 8:10" },
      { kind: "code", text: "ring twice" },
      { kind: "paragraph", text: "Mind the step." },
      { kind: "paragraph", text: expect.stringMatching(/^By\s+hand$/) },
      { kind: "paragraph", text: "the quay" },
    ]);
  });
});

describe("a table", () => {
  it("is a row each, with the names of its columns", () => {
    expect(blocksOfTable('Time;To;Note\n8:10;Brindle;"calm; mostly"\n\n9:40;Tansy Holm\n7:15;Brindle;')).toEqual([
      { kind: "row", row: 1, text: "Time: 8:10; To: Brindle; Note: calm; mostly" },
      { kind: "row", row: 2, text: "Time: 9:40; To: Tansy Holm" },
      { kind: "row", row: 3, text: "Time: 7:15; To: Brindle" },
    ]);
  });

  it("says what is wrong with it", () => {
    expect(() => blocksOfTable('a,b\n1,"2\n3,4\n')).toThrow(UnreadableTable);
  });
});
