import { SaxesParser } from "saxes";
import { type Entry, open, type ZipFile } from "yauzl";
import { type Block, rowInWords } from "@/core/sources/document";
import { Unreadable } from "./telling";

/** Bytes that the text of a document may have once it is unpacked, and the names of its styles. */
const largestText = 60 * 1024 * 1024;
const largestStyles = 10 * 1024 * 1024;
/** Files that a package may have. */
const mostFiles = 5_000;

/**
 * A document of an office program (ECMA-376) as blocks: headings by their styles, paragraphs, lists, and the rows of
 * tables with the names of their columns. Of its package nothing but the text and the names of styles is unpacked.
 * @throws {Unreadable} where it is too large, or no such document
 */
export async function blocksOfDocx(path: string): Promise<Block[]> {
  const { document, styles } = await partsOf(path);
  if (document === undefined) throw new Unreadable("holds no text of an office program");
  return blocksIn(document, styles === undefined ? new Map() : headingsIn(styles));
}

/** The two parts of the package that are read. */
async function partsOf(path: string): Promise<{ document?: string; styles?: string }> {
  const zip = await opened(path);
  const parts: { document?: string; styles?: string } = {};
  let count = 0;
  return new Promise((resolve, reject) => {
    zip.on("error", (error) => reject(error));
    zip.on("end", () => resolve(parts));
    zip.on("entry", (entry: Entry) => {
      count += 1;
      const name = { "word/document.xml": "document", "word/styles.xml": "styles" }[entry.fileName] as
        | keyof typeof parts
        | undefined;
      if (count > mostFiles) reject(new Unreadable(`holds more than ${mostFiles} files`));
      else if (name === undefined) zip.readEntry();
      else
        unpacked(zip, entry, name === "document" ? largestText : largestStyles).then((text) => {
          parts[name] = text;
          zip.readEntry();
        }, reject);
    });
    zip.readEntry();
  });
}

function opened(path: string): Promise<ZipFile> {
  return new Promise((resolve, reject) =>
    open(path, { lazyEntries: true, validateEntrySizes: true }, (error, zip) =>
      error ? reject(new Unreadable(`is a broken package: ${error.message}`)) : resolve(zip),
    ),
  );
}

/** A file of a package as text. Its size is judged before it is unpacked, and held against what comes. */
async function unpacked(zip: ZipFile, entry: Entry, largest: number): Promise<string> {
  if (entry.uncompressedSize > largest)
    throw new Unreadable(`would be ${Math.round(entry.uncompressedSize / 1024 / 1024)} MiB once it is unpacked`);
  if (entry.isEncrypted()) throw new Unreadable("is encrypted");
  return new Promise((resolve, reject) =>
    zip.openReadStream(entry, (error, stream) => {
      if (error) return reject(new Unreadable(`is a broken package: ${error.message}`));
      const parts: Buffer[] = [];
      stream.on("data", (part: Buffer) => parts.push(part));
      stream.on("error", (why: Error) => reject(new Unreadable(`is a broken package: ${why.message}`)));
      stream.on("end", () => resolve(Buffer.concat(parts).toString("utf8")));
    }),
  );
}

/** The styles that are headings, by their ids, with their levels from 1. */
function headingsIn(xml: string): Map<string, number> {
  const levels = new Map<string, number>();
  let style = "";
  parsed(xml, {
    open(name, attributes) {
      if (name === "w:style") style = attributes["w:styleId"] ?? "";
      const named = name === "w:name" && /^heading (\d)$/i.exec(attributes["w:val"] ?? "")?.[1];
      if (named) levels.set(style, Number(named));
      if (name === "w:name" && /^title$/i.test(attributes["w:val"] ?? "")) levels.set(style, 1);
    },
  });
  return levels;
}

/** A paragraph that is being read. */
interface Paragraph {
  text: string;
  level: number | undefined;
  isItem: boolean;
}

function blocksIn(xml: string, headings: ReadonlyMap<string, number>): Block[] {
  const blocks: Block[] = [];
  let paragraph: Paragraph | undefined;
  let isText = false;
  /** The tables that one is in, the innermost last: their rows so far, of cells. */
  const tables: string[][][] = [];
  const cellOf = () => tables.at(-1)?.at(-1);
  const add = (block: Block) => {
    const last = blocks.at(-1);
    const isItem = block.kind === "paragraph" && block.text.startsWith("- ");
    // the items of a list are one paragraph
    if (isItem && last?.kind === "paragraph" && last.text.startsWith("- ")) last.text += `\n${block.text}`;
    else blocks.push(block);
  };
  parsed(xml, {
    open(name, attributes) {
      if (name === "w:p") paragraph = { text: "", level: undefined, isItem: false };
      else if (name === "w:t") isText = true;
      else if (name === "w:tbl") tables.push([]);
      else if (name === "w:tr") tables.at(-1)?.push([]);
      else if (name === "w:tc") cellOf()?.push("");
      else if (!paragraph) return;
      else if (name === "w:tab") paragraph.text += "\t";
      else if (name === "w:br" || name === "w:cr") paragraph.text += "\n";
      else if (name === "w:numPr") paragraph.isItem = true;
      else if (name === "w:pStyle") paragraph.level = headings.get(attributes["w:val"] ?? "");
      else if (name === "w:outlineLvl") paragraph.level = Number(attributes["w:val"]) + 1;
    },
    text(text) {
      if (isText && paragraph) paragraph.text += text;
    },
    close(name) {
      if (name === "w:t") isText = false;
      else if (name === "w:p" && paragraph) {
        const { text, level, isItem } = paragraph;
        paragraph = undefined;
        const cells = cellOf();
        if (text.trim() === "") return;
        if (cells) cells[cells.length - 1] = [cells.at(-1), text.trim()].filter(Boolean).join(" ");
        else if (level !== undefined && level >= 1 && level <= 6) add({ kind: "heading", level, text: text.trim() });
        else add({ kind: "paragraph", text: isItem ? `- ${text.trim()}` : text.trim() });
      } else if (name === "w:tbl") {
        const [head = [], ...rows] = tables.pop() ?? [];
        const outer = cellOf();
        const all = rows.length === 0 ? [rowInWords([], head)] : rows.map((row) => rowInWords(head, row));
        if (outer) outer[outer.length - 1] = [outer.at(-1), ...all].filter(Boolean).join("; ");
        else for (const [at, text] of all.entries()) if (text !== "") add({ kind: "row", row: at + 1, text });
      }
    },
  });
  return blocks;
}

interface Handlers {
  open(name: string, attributes: Record<string, string>): void;
  text?(text: string): void;
  close?(name: string): void;
}

/** Goes through XML. No entities but those of XML itself are known, so that none can grow. */
function parsed(xml: string, { open, text, close }: Handlers): void {
  const parser = new SaxesParser();
  parser.on("opentag", ({ name, attributes }) => open(name, attributes as Record<string, string>));
  if (text) parser.on("text", text);
  if (close) parser.on("closetag", ({ name }) => close(name));
  parser.on("error", (error) => {
    throw new Unreadable(`holds broken XML: ${error.message}`);
  });
  parser.write(xml).close();
}
