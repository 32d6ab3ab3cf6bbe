import { marksBetween } from "./marks";

/** A passage as it is carried: with its mark, and where it comes from, in words. */
export interface Fenced {
  /** With its brackets. */
  mark: string;
  /** "Skipper's handbook, page 47". */
  where: string;
  text: string;
}

/** Signs that nobody sees, and a model reads: formats, directions, tags, and what has no place in text (Unicode Cf, Cc). */
const unseen = /(?![\n\t])[\p{Cc}\p{Cf}\p{Co}\p{Cn}\u{E0000}-\u{E0FFF}\u115F\u1160\u3164\uFFA0]|\p{Cs}/gu;
const fewest = 4;

/**
 * A passage as it stands in what is sent: between two lines of `=`, the first of which has its mark. A document is not
 * an instruction, and none of it can pretend to be one: the lines are longer than any run of that sign in the texts, so
 * that no text closes its own; what looks like a mark in a text loses its brackets; signs that nobody sees are taken out.
 * @param fence made for all passages that are sent together
 */
export function fencedIn(fence: string, { mark, where, text }: Fenced): string {
  return `${fence} ${mark} ${onOneLine(withoutForged(where))}\n${withoutForged(text)}\n${fence}`;
}

/** A line that none of some passages can have in it. */
export function fenceFor(passages: readonly Pick<Fenced, "where" | "text">[]): string {
  const texts = passages.flatMap(({ where, text }) => [withoutForged(where), withoutForged(text)]);
  return "=".repeat(Math.max(fewest, 1 + longestRun(texts)));
}

/** A text of a document without what nobody sees in it, and with no marks in it. */
export function withoutForged(text: string): string {
  return text
    .normalize("NFC")
    .replace(/\r\n?/g, "\n")
    .replace(unseen, "")
    .replace(/[\u2028\u2029\u0085\v\f]/g, "\n")
    .replace(/［/g, "[")
    .replace(/］/g, "]")
    .replace(/\[([^[\]]*)\]/g, (whole, inside: string) => (marksBetween(inside).length > 0 ? `(${inside})` : whole));
}

function onOneLine(text: string): string {
  return text.replace(/\s+/g, " ").trim();
}

function longestRun(texts: readonly string[]): number {
  let longest = 0;
  for (const text of texts) for (const [run] of text.matchAll(/=+/g)) longest = Math.max(longest, run.length);
  return longest;
}
