import { z } from "zod";

/**
 * What a document is read into, whatever kind of file it was: *blocks* in their order. A block is a heading, a
 * paragraph, a row of a table with the names of its columns, or code; it knows its page, where there are pages, and
 * its row, where there are rows. The *text* of a document is that of its blocks, one after another; places in it are
 * characters of that text.
 */
const place = {
  text: z.string(),
  /** Counted from 1, where the document has pages. */
  page: z.int().min(1).optional(),
};

export const blockSchema = z.discriminatedUnion("kind", [
  /** `level` from 1, the highest, to 6. */
  z.object({ kind: z.literal("heading"), level: z.int().min(1).max(6), ...place }),
  z.object({ kind: z.literal("paragraph"), ...place }),
  /** `row` counts from 1, the head apart; `text` says its cells with the names of their columns. */
  z.object({ kind: z.literal("row"), row: z.int().min(1), ...place }),
  z.object({ kind: z.literal("code"), ...place }),
]);
export type Block = z.infer<typeof blockSchema>;

/** What parts two blocks in the text of a document. */
const between = "\n\n";

/** The text of a document, and where each of its blocks begins in it. */
export function textOfBlocks(blocks: readonly Block[]): { text: string; starts: number[] } {
  const starts: number[] = [];
  let text = "";
  for (const block of blocks) {
    if (text !== "") text += between;
    starts.push(text.length);
    text += block.text;
  }
  return { text, starts };
}

/** A row of a table in words: each cell behind the name of its column; cells without words are left out. */
export function rowInWords(head: readonly string[], cells: readonly string[]): string {
  const said = cells.flatMap((cell, at) => {
    const value = cell.trim();
    const name = head[at]?.trim() ?? "";
    if (value === "") return [];
    return [name === "" ? value : `${name}: ${value}`];
  });
  return said.join("; ");
}
