import type { Block } from "./cut";

/** What a block weighs beside its characters: by itself, for each line and cell, and where it is code. */
const weights = { block: 200, line: 60, cell: 40, code: 1_500 };

const weighed = new WeakMap<Block, number>();

/** What showing a block takes, in units of about a character of plain text. */
export function weightOf(block: Block): number {
  const known = weighed.get(block);
  if (known !== undefined) return known;
  const { kind, text } = block;
  const marks = kind === "code" ? 0 : text.split("\n").length * weights.line + text.split("|").length * weights.cell;
  const weight = text.length + weights.block + marks + (kind === "text" && text.includes("```") ? weights.code : 0);
  weighed.set(block, weight);
  return weight;
}

/** How many blocks after some weigh so much together, at least one. */
export function countFor(weight: number, blocks: readonly Block[], from: number): number {
  let left = weight;
  let count = 0;
  for (let at = from; at < blocks.length && (count === 0 || left > 0); at++, count++)
    left -= weightOf(blocks[at] as Block);
  return count;
}
