import { differencesOf } from "@/core/comparing/differences";
import { type Block, blocksOf } from "./cut";
import { type Mark, marksWithin } from "./marks";
import { shownWords, treeOf } from "./tree";

/** Marks of a text, by its blocks. */
export type MarksByBlock = readonly (readonly Mark[])[];

/** What differs in what texts show: by text and block, or that so much does that marks would say nothing. */
export type Differing =
  | { kind: "marks"; before: readonly MarksByBlock[]; after: readonly MarksByBlock[] }
  | { kind: "throughout" };

/**
 * Compares what texts show, word by word: marks of Markdown that change nothing of the words are no difference.
 * @param before texts of one side, in their order, which are compared as one
 * @param isMarkdown whether they are shown as Markdown; else each is one block, shown as it stands
 */
export function differingIn(before: readonly string[], after: readonly string[], isMarkdown: boolean): Differing {
  const [one, other] = [shownOf(before, isMarkdown), shownOf(after, isMarkdown)];
  const found = differencesOf({ before: one.words, after: other.words, isExact: true });
  if (found.kind === "throughout") return found;
  const marks = { before: [] as Mark[], after: [] as Mark[] };
  const at = { before: 0, after: 0 };
  for (const { text, in: where } of found.parts) {
    for (const side of ["before", "after"] as const) {
      if (where !== "both" && where !== side) continue;
      const from = at[side];
      at[side] += text.length;
      if (where === side) marks[side].push({ from, to: at[side], as: side === "before" ? "del" : "ins" });
    }
  }
  return { kind: "marks", before: byBlock(one.places, marks.before), after: byBlock(other.places, marks.after) };
}

interface Shown {
  words: string;
  /** Where each block of each text begins in the words, and its own. */
  places: { at: number; own: string }[][];
}

function shownOf(texts: readonly string[], isMarkdown: boolean): Shown {
  const parts: string[] = [];
  let at = 0;
  const places = texts.map((text) => {
    const blocks: readonly Block[] = isMarkdown ? blocksOf(text) : [{ kind: "text", text, joins: "no" }];
    return blocks.map((block, number) => {
      const words = isMarkdown ? wordsOfBlock(block) : text;
      const place = { at, own: words };
      // a line that was cut goes on
      const whole = blocks[number + 1]?.joins === "line" ? words : `${words}\n`;
      parts.push(whole);
      at += whole.length;
      return place;
    });
  });
  return { words: parts.join(""), places };
}

function wordsOfBlock(block: Block): string {
  const tree = treeOf(block);
  return tree.kind === "read" ? shownWords(tree.nodes).replace(/\n$/, "") : block.text;
}

function byBlock(places: Shown["places"], marks: readonly Mark[]): Mark[][][] {
  let next = 0;
  return places.map((blocks) =>
    blocks.map(({ at, own: words }) => {
      const own: Mark[] = [];
      while (next < marks.length && (marks[next] as Mark).to <= at) next += 1;
      for (let place = next; place < marks.length && (marks[place] as Mark).from < at + words.length; place += 1)
        own.push(...trimmed(words, marksWithin([marks[place] as Mark], at, words.length)));
      return own;
    }),
  );
}

/** Marks without the blanks that they begin and end with, and over whole words: “9:40”, where the 40 alone differs. */
function trimmed(words: string, marks: readonly Mark[]): Mark[] {
  return marks.flatMap((mark) => {
    const { from, to } = mark;
    const text = words.slice(from, to);
    let start = from + text.length - text.trimStart().length;
    let end = from + text.trimEnd().length;
    if (end <= start) return [];
    while (start > 0 && joins(words, start)) start -= 1;
    while (end < words.length && joins(words, end)) end += 1;
    return [{ ...mark, from: start, to: end }];
  });
}

/** Whether the characters on both sides of a place are of one word. */
function joins(words: string, at: number): boolean {
  return /^[\p{L}\p{N}:]{2}$/u.test(words.slice(at - 1, at + 1));
}
