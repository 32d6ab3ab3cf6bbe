import { longestMark, marksBetween } from "./marks";

/** A mark in a reply: which it is ("handbook 3"), and where its brackets stand in the text. */
export interface Cite {
  mark: string;
  from: number;
  to: number;
}

/**
 * Reads the marks in a text while it comes, however it is cut: what stands between two brackets is one, or several,
 * or something else. The text itself is left as it is, so that nothing of it waits.
 */
export class CiteReader {
  /** Signs that came so far. */
  private at = 0;
  /** What came since a bracket was opened; undefined where none is open. */
  private open: { from: number; inside: string } | undefined;

  /** Takes a further stretch of the text. @returns the marks that it closes, in order */
  feed(text: string): Cite[] {
    const cites: Cite[] = [];
    for (const sign of text) {
      const from = this.at;
      this.at += sign.length;
      if (sign === "[") this.open = { from, inside: "" };
      else if (this.open === undefined) continue;
      else if (sign === "]") {
        for (const mark of marksBetween(this.open.inside)) cites.push({ mark, from: this.open.from, to: this.at });
        this.open = undefined;
      } else if (this.open.inside.length + sign.length > longestMark || sign === "\n") this.open = undefined;
      else this.open.inside += sign;
    }
    return cites;
  }
}

/** The marks in a whole text. */
export function citesIn(text: string): Cite[] {
  return new CiteReader().feed(text);
}

/**
 * A text without the marks that stand for passages: a reply that is carried on is not to cite what the next one does
 * not have. Blanks before a mark go with it.
 * @param isMark whether a mark was one of a passage
 */
export function withoutMarks(text: string, isMark: (mark: string) => boolean): string {
  let without = "";
  let from = 0;
  let last = -1;
  for (const cite of citesIn(text)) {
    if (!isMark(cite.mark) || cite.from === last) continue;
    last = cite.from;
    without += text.slice(from, cite.from).trimEnd();
    from = cite.to;
  }
  return without + text.slice(from);
}
