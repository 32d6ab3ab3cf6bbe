import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { blocksOf } from "./cut";
import { differingIn, type MarksByBlock } from "./differing";
import { shownWords, treeOf } from "./tree";

/** The words that marks of a text stand on. */
function marked(text: string, marks: MarksByBlock | undefined): string[] {
  return blocksOf(text).flatMap((block, at) => {
    const tree = treeOf(block);
    const words = tree.kind === "read" ? shownWords(tree.nodes) : block.text;
    return (marks?.[at] ?? []).map(({ from, to }) => words.slice(from, to));
  });
}

function differing(before: string, after: string): [string[], string[]] {
  const found = differingIn([before], [after], true);
  if (found.kind === "throughout") throw new Error("It differs throughout.");
  return [marked(before, found.before[0]), marked(after, found.after[0])];
}

describe("what differs in what two texts show", () => {
  it("is told by the words of each block", () => {
    expect(differing("# Boats\n\nThe **9:40** boat.\n\n- dogs", "# Boats\n\nThe **9:50** boat.\n\n- cats")).toEqual([
      ["9:40", "dogs"],
      ["9:50", "cats"],
    ]);
  });

  it("is not how it is written", () => {
    expect(differing("The **9:40** boat\n\n* one\n* two", "The __9:40__ boat\n\n- one\n- two")).toEqual([[], []]);
  });

  it("is found behind long tables and fences that are cut in other places", () => {
    const code = (first: string) =>
      `\`\`\`\n${first}${Array.from({ length: 200 }, (_, at) => `line ${at}\n`).join("")}\`\`\`\n\nThe end`;
    expect(differing(`${code("")} is near.`, `${code("begun\n")} is far.`)).toEqual([["near"], ["begun", "far"]]);
  });

  it("is told by text where a message has several", () => {
    const found = differingIn(["one boat", "two boats"], ["one boat", "two ships"], true);
    expect(found.kind === "marks" && found.after.map((text) => text.map((block) => block.length))).toEqual([[0], [1]]);
  });

  it("is told of what is written where that is shown as it stands", () => {
    const found = differingIn(["**9:40**"], ["9:40"], false);
    expect(found.kind === "marks" && found.before[0]?.[0]?.length).toBe(2);
  });

  it("never stands outside of the words of its block", () => {
    const line = fc.constantFrom(
      "a b",
      "**c** d",
      "- e",
      "",
      "| f | g |",
      "|---|---|",
      "```",
      "# h",
      "x ".repeat(2_500),
    );
    const text = fc.array(line, { maxLength: 30 }).map((lines) => lines.join("\n"));
    fc.assert(
      fc.property(text, text, (before, after) => {
        const found = differingIn([before], [after], true);
        if (found.kind === "throughout") return;
        for (const words of [...marked(before, found.before[0]), ...marked(after, found.after[0])])
          expect(words.trim()).not.toBe("");
      }),
    );
  });
});
