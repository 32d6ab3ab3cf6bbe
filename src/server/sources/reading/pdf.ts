import { dirname, join } from "node:path";
import { getDocument, InvalidPDFException, OPS, type PDFPageProxy } from "pdfjs-dist/legacy/build/pdf.mjs";
import type { TextItem } from "pdfjs-dist/types/src/display/api";
import type { Block } from "@/core/sources/document";
import { Unreadable } from "./telling";

/** Pages that a document may have. */
const mostPages = 5_000;

/** What is told while a document is read. */
interface Listener {
  parts(pages: number): Promise<void>;
  part(page: number, blocks: Block[], unread: "no-text" | "broken" | null): Promise<void>;
}

/**
 * Reads a PDF (ISO 32000) page by page: each is a part. A page on which there is no text to be read says so; where it
 * shows a picture it was scanned.
 * @param from the first page that is wanted, from 1
 * @throws {Unreadable} where it is encrypted, broken, or has too many pages
 */
export async function readPdf(data: Uint8Array, from: number, listener: Listener): Promise<void> {
  // where its tables of characters and its usual fonts are
  const own = dirname(new URL(import.meta.resolve("pdfjs-dist/package.json")).pathname);
  const loading = getDocument({
    data,
    isEvalSupported: false,
    disableFontFace: true,
    useSystemFonts: false,
    enableXfa: false,
    cMapUrl: `${join(own, "cmaps")}/`,
    cMapPacked: true,
    standardFontDataUrl: `${join(own, "standard_fonts")}/`,
    verbosity: 0,
  });
  const document = await loading.promise.catch((error: Error) => {
    if (error.name === "PasswordException") throw new Unreadable("is encrypted: it asks for a password");
    if (error instanceof InvalidPDFException) throw new Unreadable("is a broken PDF");
    throw error;
  });
  try {
    const { numPages } = document;
    if (numPages > mostPages) throw new Unreadable(`has ${numPages} pages, and ${mostPages} are read`);
    await listener.parts(numPages);
    for (let number = from; number <= numPages; number += 1) {
      const { blocks, unread } = await pageOf(document, number);
      await listener.part(number, blocks, unread);
    }
  } finally {
    await loading.destroy();
  }
}

async function pageOf(
  document: { getPage(number: number): Promise<PDFPageProxy> },
  number: number,
): Promise<{ blocks: Block[]; unread: "no-text" | "broken" | null }> {
  try {
    const page = await document.getPage(number);
    const { items } = await page.getTextContent();
    const blocks = blocksOf(items as TextItem[], number);
    const isScanned = blocks.length === 0 && (await hasPicture(page));
    page.cleanup();
    return { blocks, unread: isScanned ? "no-text" : null };
  } catch {
    // one page that is broken takes no other down; what the parser says of it is of no use to anybody
    return { blocks: [], unread: "broken" };
  }
}

async function hasPicture(page: PDFPageProxy): Promise<boolean> {
  const { fnArray } = await page.getOperatorList();
  const pictures: readonly number[] = [OPS.paintImageXObject, OPS.paintInlineImageXObject, OPS.paintImageMaskXObject];
  return fnArray.some((name) => pictures.includes(name));
}

/** A line of a page: its words, the height of its letters, and where it stands from below. */
interface Line {
  text: string;
  height: number;
  y: number;
}

/** How much larger than most the letters of a heading are, and how much farther than most a line is from the one of another paragraph. */
const larger = 1.15;
const farther = 1.4;

function blocksOf(items: readonly TextItem[], page: number): Block[] {
  const lines = linesOf(items);
  const usual = usualHeight(lines);
  const gap = usualGap(lines);
  const blocks: Block[] = [];
  let before: Line | undefined;
  for (const line of lines) {
    const isHeading = line.height > usual * larger && line.text.length < 200;
    const last = blocks.at(-1);
    const joins = before && Math.abs(before.y - line.y) <= gap * farther && before.height === line.height;
    if (isHeading) {
      if (last?.kind === "heading" && joins) last.text += ` ${line.text}`;
      else blocks.push({ kind: "heading", level: levelOf(line.height / usual), text: line.text, page });
    } else if (last?.kind === "paragraph" && joins) last.text += `\n${line.text}`;
    else blocks.push({ kind: "paragraph", text: line.text, page });
    before = line;
  }
  return blocks.map((block) => ({ ...block, text: unbroken(block.text) }));
}

function linesOf(items: readonly TextItem[]): Line[] {
  const lines: Line[] = [];
  let line: Line | undefined;
  for (const { str, transform, height, hasEOL } of items) {
    const y = Math.round(Number(transform[5]) * 10) / 10;
    if (line && str.trim() !== "" && Math.abs(line.y - y) > Math.max(line.height, height) / 2) line = undefined;
    if (!line && str.trim() !== "") {
      line = { text: "", height: 0, y };
      lines.push(line);
    }
    if (line) {
      line.text += str;
      line.height = Math.max(line.height, Math.round(height * 10) / 10);
    }
    if (hasEOL) line = undefined;
  }
  return lines
    .map((each) => ({ ...each, text: each.text.replace(/\s+/g, " ").trim() }))
    .filter(({ text }) => text !== "");
}

/** The height that most letters of a page have. */
function usualHeight(lines: readonly Line[]): number {
  const letters = new Map<number, number>();
  for (const { text, height } of lines) letters.set(height, (letters.get(height) ?? 0) + text.length);
  const [usual] = [...letters].sort((a, b) => b[1] - a[1])[0] ?? [1];
  return usual || 1;
}

/** How far lines that follow each other are apart, more often than not. */
function usualGap(lines: readonly Line[]): number {
  const gaps = lines.slice(1).flatMap(({ y }, at) => {
    const gap = Math.abs((lines[at] as Line).y - y);
    return gap > 0 ? [gap] : [];
  });
  return gaps.sort((a, b) => a - b)[Math.floor(gaps.length / 3)] ?? 0;
}

function levelOf(ratio: number): number {
  if (ratio >= 1.8) return 1;
  return ratio >= 1.4 ? 2 : 3;
}

/** Lines of a paragraph as running text: a word that was parted at the end of a line is one again. */
function unbroken(text: string): string {
  return text.replace(/(\p{Ll})-\n(?=\p{Ll})/gu, "$1").replace(/\n/g, " ");
}
