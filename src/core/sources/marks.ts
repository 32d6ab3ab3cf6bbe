/**
 * Marks by which a reply names the passage that it stands on: "[handbook 3]" is the third of the passages that were
 * carried, and comes from the document whose short name is *handbook*.
 */

/** What marks are made of, as they may stand in a text. */
const name = "[\\p{L}\\p{N}](?:[\\p{L}\\p{N}-]{0,38}[\\p{L}\\p{N}])?";
const oneMark = new RegExp(`^(${name}) (\\d{1,4})$`, "u");
/** Signs that stand between two brackets, where that is a mark or several. */
export const longestMark = 200;

/** A mark as it is written. */
export function markOf(short: string, number: number): string {
  return `[${short} ${number}]`;
}

/** The marks between two brackets, as "handbook 3" each: one, or several with commas or semicolons between; none where it is something else. */
export function marksBetween(inside: string): string[] {
  const parts = inside.split(/[,;]/).map((part) => part.replace(/\s+/g, " ").trim().toLowerCase());
  let last = "";
  const marks = parts.map((part) => {
    // "handbook 3, 4" names two of them
    const said = /^\d{1,4}$/.test(part) && last !== "" ? `${last} ${part}` : part;
    last = oneMark.exec(said)?.[1] ?? "";
    return last === "" ? undefined : said;
  });
  return marks.every((mark) => mark !== undefined) ? (marks as string[]) : [];
}

/** The short name of a document: a word of its title that none of the others has. */
export function shortNameFor(title: string, taken: ReadonlySet<string>): string {
  const words = (title.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [])
    .filter((word) => word.length > 2 && !/^\d+$/.test(word) && !plain.has(word))
    .map((word) => word.slice(0, 24));
  const free = [...words].sort((a, b) => b.length - a.length).find((word) => !taken.has(word));
  if (free !== undefined) return free;
  const base = words[0] ?? "document";
  for (let number = 2; ; number++) if (!taken.has(`${base}-${number}`)) return `${base}-${number}`;
}

/** Words that tell nothing of a document. */
const plain = new Set(["the", "and", "for", "our", "with", "from", "html", "pdf", "docx", "csv", "txt", "www", "com"]);
