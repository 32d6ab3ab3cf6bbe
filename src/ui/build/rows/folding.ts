import type { Reached } from "@/core/context/judged";

/** A stretch of rows, from one place up to another, which is not in it. */
export interface Stretch {
  from: number;
  to: number;
  isFolded: boolean;
}

/** Rows that are left out for the same reason are folded from so many on. */
const leastFolded = 4;
const foldable = new Set(["older", "parted", "over-budget", "over-window", "summarised", "forgotten", "apart"]);

/** The rows in stretches: those that are left out together are folded, unless one of them is open. */
export function stretchesOf(rows: readonly Reached[], open: ReadonlySet<string>): Stretch[] {
  const stretches: Stretch[] = [];
  for (let from = 0; from < rows.length; ) {
    const reason = reasonAt(rows, from);
    let to = from + 1;
    while (to < rows.length && reason !== undefined && reasonAt(rows, to) === reason) to += 1;
    // the reply of a turn goes with its question
    const isOpen = rows.slice(from, to).some(({ row }) => open.has(row.id));
    stretches.push({ from, to, isFolded: reason !== undefined && to - from >= leastFolded && !isOpen });
    from = to;
  }
  return stretches;
}

function reasonAt(rows: readonly Reached[], at: number): string | undefined {
  const row = rows[at];
  return row && !row.carried && foldable.has(row.reason.kind) ? row.reason.kind : undefined;
}
