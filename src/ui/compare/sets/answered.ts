import type { MessageSet } from "@/contract/sets";
import { type Measure, measured, type SetAnswer, type SetMark } from "@/core/comparing/sets/answer";
import { hiddenOrder } from "@/core/comparing/sets/blind";
import { type Spread, spreadOf } from "@/core/comparing/sets/spread";

/** A set with what was answered since: an answer that was asked again takes the place of the one before. */
export function withAnswers(before: MessageSet, read: MessageSet): MessageSet {
  const isReplaced = (old: SetAnswer) => read.answers.some(({ row, lane }) => old.row === row && old.lane === lane);
  const marks = new Map(read.marks.map(({ row, lane, mark }) => [`${row} ${lane}`, mark]));
  const answers = [...before.answers.filter((old) => !isReplaced(old)), ...read.answers].map((answer) => {
    const mark = marks.get(`${answer.row} ${answer.lane}`) ?? null;
    // what has not changed stays the same, so that its row is not drawn again
    return answer.mark === mark ? answer : { ...answer, mark };
  });
  return { ...read, answers };
}

/** An answer as the table has it: its lane, and what that answered; nothing where it did not yet. */
export interface Cell {
  lane: number;
  answer: SetAnswer | undefined;
}

/** Whether two rows show the same. */
export function sameCells(a: readonly Cell[], b: readonly Cell[]): boolean {
  return a.length === b.length && a.every(({ lane, answer }, at) => b[at]?.lane === lane && b[at]?.answer === answer);
}

/** The cells of each row, in the order in which they are shown. */
export function cellsOf({ id, rows, lanes, answers, hidesNames }: MessageSet): Cell[][] {
  const known = new Map(answers.map((answer) => [`${answer.row} ${answer.lane}`, answer]));
  return rows.map((_, row) => {
    const order = hidesNames ? hiddenOrder(id, row, lanes.length) : lanes.keys();
    return [...order].map((lane) => ({ lane, answer: known.get(`${row} ${lane}`) }));
  });
}

/** How a measure spreads over the replies of each lane; undefined for one of which it is not known. */
export function spreadsOf({ lanes, answers }: MessageSet, measure: Measure): (Spread | undefined)[] {
  return lanes.map((_, lane) =>
    spreadOf(
      answers
        .filter((answer) => answer.lane === lane)
        .flatMap(({ replies }) => replies.flatMap((reply) => measured(reply, measure) ?? [])),
    ),
  );
}

/** How often a lane was marked so. */
export function marksOf({ answers }: MessageSet, lane: number, mark: SetMark): number {
  return answers.filter((answer) => answer.lane === lane && answer.mark === mark).length;
}

const steps: Record<string, { down?: number; right?: number }> = {
  ArrowUp: { down: -1 },
  ArrowDown: { down: 1 },
  ArrowLeft: { right: -1 },
  ArrowRight: { right: 1 },
};

/** Where the focus goes from a cell of the table, by an arrow key; undefined at an edge. */
export function movedBy(
  key: string,
  { row, column }: { row: number; column: number },
  { rows, columns }: { rows: number; columns: number },
): { row: number; column: number } | undefined {
  const { down = 0, right = 0 } = steps[key] ?? {};
  const next = { row: row + down, column: column + right };
  const isThere = next.row >= 0 && next.row < rows && next.column >= 0 && next.column < columns;
  return isThere && (down !== 0 || right !== 0) ? next : undefined;
}
