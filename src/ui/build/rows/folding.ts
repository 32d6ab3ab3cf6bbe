import type { Reached } from "@/core/context/judged";
import type { Reason } from "@/core/context/reason";

/** A stretch of rows, from one place up to another, which is not in it. */
export interface Stretch {
  from: number;
  to: number;
  isFolded: boolean;
}

/** Rows that are left out for the same reason are folded from so many on. */
const leastFolded = 4;
const leftOut = new Set<Reason["kind"]>([
  "older",
  "parted",
  "over-budget",
  "over-window",
  "summarised",
  "forgotten",
  "apart",
]);

/** Whether a turn is left out by the memory, and not for what it is or where it stands. */
export function isLeftOut({ kind }: Reason): boolean {
  return leftOut.has(kind);
}

/**
 * The rows in stretches: those that are left out together are folded, unless one of them is open. The newest turn never
 * is: whatever the next message carries, that one was sent.
 */
export function stretchesOf(rows: readonly Reached[], open: ReadonlySet<string>): Stretch[] {
  const stretches: Stretch[] = [];
  const newest = rows.at(-1)?.row.turn;
  const reasonAt = (at: number) => (rows[at]?.row.turn === newest ? undefined : reasonOf(rows[at]));
  for (let from = 0; from < rows.length; ) {
    const reason = reasonAt(from);
    let to = from + 1;
    while (to < rows.length && reason !== undefined && reasonAt(to) === reason) to += 1;
    // the reply of a turn goes with its question
    const isOpen = rows.slice(from, to).some(({ row }) => open.has(row.id));
    stretches.push({ from, to, isFolded: reason !== undefined && to - from >= leastFolded && !isOpen });
    from = to;
  }
  return stretches;
}

function reasonOf(row: Reached | undefined): string | undefined {
  return row && !row.carried && isLeftOut(row.reason) ? row.reason.kind : undefined;
}
