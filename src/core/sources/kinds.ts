/** Kinds of documents that can be read. */
export const documentKinds = ["text", "markdown", "html", "csv", "docx", "pdf"] as const;
export type DocumentKind = (typeof documentKinds)[number];

/** What a file is, found from its content; or what it is instead, in words. */
export type Kind = { kind: DocumentKind } | { kind: "unreadable"; is: string };

/** Beginnings of files that are no documents, as the first bytes of them say. */
const others: readonly (readonly [begins: string, is: string])[] = [
  ["\u0089PNG", "a picture (PNG)"],
  ["\u00ff\u00d8\u00ff", "a picture (JPEG)"],
  ["GIF8", "a picture (GIF)"],
  ["RIFF", "sound, film or a picture (RIFF)"],
  ["ID3", "sound (MP3)"],
  ["OggS", "sound or film (Ogg)"],
  ["\u001f\u008b", "a compressed file (gzip)"],
  ["Rar!", "an archive (RAR)"],
  ["7z\u00bc\u00af", "an archive (7z)"],
  ["\u007fELF", "a program"],
  ["MZ", "a program"],
  ["SQLite format 3", "a database (SQLite)"],
  ["\u00d0\u00cf\u0011\u00e0", "a document of an older office program"],
];

/** Bytes that are looked at. */
export const looksAt = 64_000;

/**
 * Finds out what a file is from its beginning; its name has no say.
 * @param bytes the first `looksAt` bytes, or all of them
 */
export function kindOf(bytes: Uint8Array): Kind {
  const head = String.fromCharCode(...bytes.subarray(0, 16));
  const anywhere = latin(bytes.subarray(0, 1_024));
  // some programs write before it
  if (anywhere.includes("%PDF-")) return { kind: "pdf" };
  if (head.startsWith("PK\u0003\u0004")) return zipped(latin(bytes));
  const other = others.find(([begins]) => head.startsWith(begins));
  if (other) return { kind: "unreadable", is: other[1] };
  const text = decodedText(bytes);
  if (text === undefined) return { kind: "unreadable", is: "no text, nor a document that is known here" };
  if (text.trim() === "") return { kind: "unreadable", is: "empty" };
  return { kind: kindOfText(text) };
}

/** Names of the parts of a package of office documents stand readable in its beginning. */
function zipped(text: string): Kind {
  if (/word\/|\[Content_Types\]\.xml/.test(text) && !/\b(?:xl|ppt)\//.test(text)) return { kind: "docx" };
  return {
    kind: "unreadable",
    is: /\b(?:xl|ppt)\//.test(text) ? "a table or slides of an office program" : "an archive (ZIP)",
  };
}

function latin(bytes: Uint8Array): string {
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  return text;
}

/** Bytes as text: UTF-8, or UTF-16 with its mark; undefined where they are none. */
export function decodedText(bytes: Uint8Array): string | undefined {
  const [first, second] = bytes;
  if (first === 0xff && second === 0xfe) return new TextDecoder("utf-16le").decode(bytes);
  if (first === 0xfe && second === 0xff) return new TextDecoder("utf-16be").decode(bytes);
  try {
    const text = new TextDecoder("utf-8", { fatal: true }).decode(bytes, { stream: true });
    return text.includes("\u0000") ? undefined : text;
  } catch {
    if (bytes.includes(0)) return undefined;
    return new TextDecoder("windows-1252").decode(bytes);
  }
}

/** Whether a text is a page, a table or Markdown; else it is plain. */
function kindOfText(text: string): DocumentKind {
  const beginning = text.slice(0, 4_000).trimStart();
  if (/^(?:<!--[\s\S]*?-->\s*)*<(?:!doctype\s+html|html|head|body|article|main)\b/i.test(beginning)) return "html";
  if (separatorOf(text) !== undefined) return "csv";
  if (/^#{1,6} \S|^(?:[-*+]|\d+\.) \S|\[[^\]\n]+\]\([^)\n]+\)|^```|^\|.+\|$/m.test(text)) return "markdown";
  return /<(?:p|h[1-6]|div|table|ul)\b[^>]*>/i.test(beginning) ? "html" : "text";
}

/** What may part the columns of a table. */
export const separators: readonly string[] = [",", ";", "\t", "|"];
/** Lines that are looked at, and those that a table has at least. */
const someLines = 20;
const fewestLines = 3;

/** What parts the columns of a table: it stands as often in each of its first lines, quoted cells apart; undefined where it is none. */
export function separatorOf(text: string): string | undefined {
  const lines = text
    .replace(/^\uFEFF/, "")
    .split(/\r\n|\r|\n/)
    .filter((line) => line.trim() !== "")
    .slice(0, someLines)
    .map((line) => line.replace(/"(?:[^"]|"")*"/g, ""));
  if (lines.length < fewestLines) return undefined;
  // a table of Markdown has its rule, and begins its lines with what parts them
  if (lines.every((line) => line.startsWith("|"))) return undefined;
  return separators.find((separator) => {
    const [first = 0, ...others] = lines.map((line) => line.split(separator).length - 1);
    return first > 0 && others.every((count) => count === first) && lines.every((line) => isTabular(line, separator));
  });
}

/** Whether a line looks like cells, and not like a sentence with so many commas in it. */
function isTabular(line: string, separator: string): boolean {
  if (separator !== ",") return true;
  return !/[.!?]\s*$/.test(line) && (line.match(/, /g)?.length ?? 0) < line.split(",").length - 1;
}
