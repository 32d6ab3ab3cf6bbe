/** A stretch of what a block shows: its characters from `from` up to `to`, and as what it is marked. */
export interface Mark {
  from: number;
  to: number;
  as: "mark" | "del" | "ins" | "cite" | "stray";
  /** Of a citation: the mark that it is, without brackets. */
  cites?: string;
}

/** Gives the marks of a block by the words that it shows and its place among the blocks of its text, in order. */
export type Marking = (words: string, block: number) => readonly Mark[];

/** A stretch of a text, with what it is marked as. */
export interface Stretch {
  text: string;
  mark: Mark | undefined;
}

/** A text that begins at a place, cut where marks begin and end. */
export function stretchesOf(text: string, at: number, marks: readonly Mark[]): Stretch[] {
  const stretches: Stretch[] = [];
  let done = at;
  const end = at + text.length;
  const add = (to: number, mark: Stretch["mark"]) => {
    if (to > done) stretches.push({ text: text.slice(done - at, to - at), mark });
    done = Math.max(done, to);
  };
  for (const mark of marks) {
    if (mark.to <= done || mark.from >= end) continue;
    add(Math.min(mark.from, end), undefined);
    add(Math.min(mark.to, end), mark);
  }
  add(end, undefined);
  return stretches;
}

/** Marks as they stand in a part that begins at a place. */
export function marksWithin(marks: readonly Mark[], at: number, length: number): Mark[] {
  return marks.flatMap((mark) =>
    mark.to > at && mark.from < at + length
      ? [{ ...mark, from: Math.max(mark.from - at, 0), to: Math.min(mark.to - at, length) }]
      : [],
  );
}
