import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cutInto } from "./cutting";
import { type Block, rowInWords, textOfBlocks } from "./document";

/** A token is a word here, so that sizes can be counted by hand. */
const words = (text: string) => text.match(/\S+/g)?.length ?? 0;
const paragraph = (text: string, page?: number): Block => ({ kind: "paragraph", text, page });
const heading = (level: number, text: string): Block => ({ kind: "heading", level, text });
const cut = (blocks: Block[], size: number, overlap = 0) => cutInto(blocks, { size, overlap }, words);
const texts = (blocks: Block[], size: number, overlap = 0) => cut(blocks, size, overlap).map(({ text }) => text);

describe("a document is cut", () => {
  it("at its headings, under which each passage says that it stands", () => {
    const passages = cut(
      [
        heading(1, "Rules"),
        paragraph("All rules of the line."),
        heading(2, "Bicycles"),
        paragraph("A bicycle costs two euros."),
        heading(2, "Dogs"),
        paragraph("Dogs travel free."),
      ],
      100,
    );
    expect(passages.map(({ headings, text }) => [headings.join(" › "), text])).toEqual([
      ["Rules", "All rules of the line."],
      ["Rules › Bicycles", "A bicycle costs two euros."],
      ["Rules › Dogs", "Dogs travel free."],
    ]);
  });

  it("with a heading under which nothing stands as all that is said there", () => {
    const passages = cut(
      [heading(1, "Rules"), heading(2, "No dogs on the roof"), heading(1, "Ring twice in fog")],
      100,
    );
    expect(passages.map(({ headings, text }) => [headings.join(" › "), text])).toEqual([
      ["Rules", "No dogs on the roof"],
      ["", "Ring twice in fog"],
    ]);
  });

  it("with paragraphs put together up to the size, and long ones parted at their sentences", () => {
    expect(texts([paragraph("One two."), paragraph("Three four."), paragraph("Five six seven.")], 5)).toEqual([
      "One two.\n\nThree four.",
      "Five six seven.",
    ]);
    expect(texts([paragraph("One two three. Four five six. Seven eight.")], 5)).toEqual([
      "One two three.",
      "Four five six. Seven eight.",
    ]);
  });

  it("between words where there are no sentences, and between signs where there are no words", () => {
    expect(texts([paragraph("one two three four five")], 2)).toEqual(["one two", "three four", "five"]);
    const signs = cutInto(
      [paragraph("渡し船は九時四十分に出ます")],
      { size: 4, overlap: 0 },
      (text) => [...text].length,
    );
    expect(signs.map(({ text }) => text).join("")).toBe("渡し船は九時四十分に出ます");
    for (const { text } of signs) expect([...text].length).toBeLessThanOrEqual(4);
  });

  it("at its pages, which passages name", () => {
    expect(cut([paragraph("One.", 1), paragraph("Two.", 2)], 100).map(({ page, text }) => [page, text])).toEqual([
      [1, "One."],
      [2, "Two."],
    ]);
  });

  it("with each row and all code kept whole", () => {
    const row = rowInWords(["Time", "To", "Bicycles"], ["9:40", "Tansy Holm", "8"]);
    expect(row).toBe("Time: 9:40; To: Tansy Holm; Bicycles: 8");
    const code: Block = { kind: "code", text: "a b c\nd e f" };
    const passages = cut([{ kind: "row", row: 1, text: row }, { kind: "row", row: 2, text: "Time: 8:10" }, code], 3);
    expect(passages.map(({ row, text }) => [row, text])).toEqual([
      [1, row],
      [2, "Time: 8:10"],
      [undefined, "a b c\nd e f"],
    ]);
  });

  it("with the end of a passage repeated in the next one of its section", () => {
    const blocks = [paragraph("One two. Three four. Five six. Seven eight.")];
    expect(texts(blocks, 4, 2)).toEqual(["One two. Three four.", "Five six. Seven eight."]);
    expect(texts(blocks, 5, 2)).toEqual(["One two. Three four.", "Five six. Seven eight."]);
    expect(texts([paragraph("One two. Three four. Five.")], 4, 2)).toEqual([
      "One two. Three four.",
      "Three four. Five.",
    ]);
  });

  it("so that every passage stands in its text where it says, and nothing of it is lost", () => {
    const block = fc.oneof(
      fc.record({ kind: fc.constant("paragraph" as const), text: fc.string({ unit: "grapheme", maxLength: 120 }) }),
      fc.record({ kind: fc.constant("code" as const), text: fc.string({ maxLength: 60 }) }),
      fc.record({ kind: fc.constant("heading" as const), level: fc.integer({ min: 1, max: 6 }), text: fc.string() }),
    );
    fc.assert(
      fc.property(
        fc.array(block, { maxLength: 8 }),
        fc.integer({ min: 1, max: 12 }),
        fc.nat(6),
        (blocks, size, overlap) => {
          const { text, starts } = textOfBlocks(blocks);
          const passages = cutInto(blocks, { size, overlap }, words);
          for (const passage of passages) expect(text.slice(passage.from, passage.to)).toBe(passage.text);
          const covered = new Set(
            passages.flatMap(({ from, to }) => Array.from({ length: to - from }, (_, at) => from + at)),
          );
          for (const [at, { kind, text: own }] of blocks.entries())
            if (kind !== "heading")
              for (let sign = 0; sign < own.length; sign++)
                if (/\S/.test(own[sign] ?? "")) expect(covered.has((starts[at] ?? 0) + sign)).toBe(true);
        },
      ),
    );
  });
});
