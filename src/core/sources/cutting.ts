import type { Block } from "./document";
import { textOfBlocks } from "./document";

/** How documents are cut into passages, in tokens. */
export interface Cut {
  /** What a passage has at most, but for code and rows, which are kept whole. */
  size: number;
  /** What a passage repeats of the one before, in the same section. */
  overlap: number;
}

/** A stretch of a document that is found, carried and cited as one. */
export interface Passage {
  text: string;
  /** Where it stands in the document's text, what it repeats included: characters from `from` up to `to`. */
  from: number;
  to: number;
  /** The headings that it stands under, the highest first. */
  headings: string[];
  page?: number;
  row?: number;
}

/** Code, or a row, that has more than so many times the size of a passage is cut all the same. */
const mostWhole = 4;

/** A stretch of a block that is not parted any more. */
interface Stretch {
  from: number;
  to: number;
  tokens: number;
}

/** What a passage may be made of: stretches of one section, of one page. */
interface Section {
  headings: string[];
  page: number | undefined;
  row: number | undefined;
  stretches: Stretch[];
}

/**
 * Cuts a document into passages. A heading begins one, and so do a page, a row and code; paragraphs are put together
 * up to the size, and one that is longer is parted at the ends of its sentences, else between words.
 * @param tokensOf about how many tokens a text has, in the app's model
 */
export function cutInto(blocks: readonly Block[], cut: Cut, tokensOf: (text: string) => number): Passage[] {
  const { text, starts } = textOfBlocks(blocks);
  return sectionsOf(blocks, starts, text, cut, tokensOf).flatMap((section) => passagesOf(section, text, cut));
}

function sectionsOf(
  blocks: readonly Block[],
  starts: readonly number[],
  text: string,
  { size }: Cut,
  tokensOf: (text: string) => number,
): Section[] {
  const sections: Section[] = [];
  let path: { level: number; text: string }[] = [];
  let open: Section | undefined;
  const begin = (block: Block): Section => {
    const section = {
      headings: path.map((heading) => heading.text),
      page: block.page,
      row: block.kind === "row" ? block.row : undefined,
      stretches: [],
    };
    sections.push(section);
    return section;
  };
  for (const [at, block] of blocks.entries()) {
    const from = starts[at] ?? 0;
    if (block.kind === "heading") {
      path = [...path.filter(({ level }) => level < block.level), { level: block.level, text: block.text.trim() }];
      open = undefined;
      // what stands under nothing else is all that is said there
      if (!holdsMore(blocks, at)) {
        const { headings, ...section } = begin(block);
        sections[sections.length - 1] = { headings: headings.slice(0, -1), ...section };
        section.stretches.push(...stretchesOf(text, { from, to: from + block.text.length }, size, tokensOf));
      }
      continue;
    }
    const isWhole = block.kind !== "paragraph";
    if (!open || isWhole || open.page !== block.page) open = begin(block);
    const most = isWhole ? size * mostWhole : size;
    open.stretches.push(...stretchesOf(text, { from, to: from + block.text.length }, most, tokensOf));
    if (isWhole) open = undefined;
  }
  return sections.filter(({ stretches }) => stretches.length > 0);
}

/** Whether something stands under a heading: a text, or a heading of a lower level. */
function holdsMore(blocks: readonly Block[], at: number): boolean {
  const [heading, next] = [blocks[at], blocks[at + 1]];
  if (heading?.kind !== "heading" || next === undefined) return false;
  return next.kind !== "heading" || next.level > heading.level;
}

/** A stretch in such pieces that none has more tokens than it may: by sentences, by words, by signs. */
function stretchesOf(
  text: string,
  { from, to }: { from: number; to: number },
  most: number,
  tokensOf: (text: string) => number,
): Stretch[] {
  const tokens = tokensOf(text.slice(from, to));
  if (text.slice(from, to).trim() === "") return [];
  if (tokens <= most || to - from < 2) return [{ from, to, tokens }];
  for (const border of borders) {
    const parts = partsAt(text, from, to, border);
    if (parts.length > 1) return parts.flatMap((part) => stretchesOf(text, part, most, tokensOf));
  }
  // one run of signs: halves, and never in the middle of a sign
  const middle = from + Math.floor((to - from) / 2);
  const half = /[\uDC00-\uDFFF]/.test(text[middle] ?? "") ? middle + 1 : middle;
  if (half >= to) return [{ from, to, tokens }];
  return [
    { from, to: half },
    { from: half, to },
  ].flatMap((part) => stretchesOf(text, part, most, tokensOf));
}

/** Where a text may be parted, the best first: behind lines, sentences, parts of sentences, words. */
const borders = [/\n+/g, /(?:[.!?…]["'”’»)\]]*(?=\s)|[。！？])\s*/g, /[;:,、，]\s+/g, /\s+/g];

function partsAt(text: string, from: number, to: number, border: RegExp): { from: number; to: number }[] {
  const parts: { from: number; to: number }[] = [];
  let begin = from;
  for (const { 0: found, index } of text.slice(from, to).matchAll(border)) {
    const end = from + index + found.length;
    if (end <= begin || end >= to) continue;
    parts.push({ from: begin, to: end });
    begin = end;
  }
  parts.push({ from: begin, to });
  return parts;
}

/** The stretches of a section, put together up to the size; each passage begins with the end of the one before. */
function passagesOf({ stretches, headings, page, row }: Section, text: string, { size, overlap }: Cut): Passage[] {
  const passages: Passage[] = [];
  for (let at = 0; at < stretches.length; ) {
    let tokens = 0;
    let end = at;
    for (; end < stretches.length; end++) {
      const next = (stretches[end] as Stretch).tokens;
      if (end > at && tokens + next > size) break;
      tokens += next;
    }
    const [first, last] = [stretches[at] as Stretch, stretches[end - 1] as Stretch];
    const from = passages.length === 0 ? first.from : repeatedFrom(stretches, at, Math.min(overlap, size - tokens));
    passages.push(trimmed(text, from, last.to, { headings, page, row }));
    at = end;
  }
  return passages;
}

/** Where a passage begins that repeats up to so many tokens of what stands before it. */
function repeatedFrom(stretches: readonly Stretch[], at: number, most: number): number {
  let from = (stretches[at] as Stretch).from;
  let tokens = 0;
  for (let before = at - 1; before >= 0; before--) {
    const stretch = stretches[before] as Stretch;
    tokens += stretch.tokens;
    if (tokens > most) break;
    from = stretch.from;
  }
  return from;
}

function trimmed(
  text: string,
  from: number,
  to: number,
  { headings, page, row }: Pick<Section, "headings" | "page" | "row">,
): Passage {
  const whole = text.slice(from, to);
  const begin = from + (whole.length - whole.trimStart().length);
  const end = from + whole.trimEnd().length;
  return {
    text: text.slice(begin, end),
    from: begin,
    to: end,
    headings,
    ...(page === undefined ? {} : { page }),
    ...(row === undefined ? {} : { row }),
  };
}
