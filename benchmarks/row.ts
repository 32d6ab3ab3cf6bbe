/** One bar: a ratio of two things measured in the same run, and what it may be at most, or must be at least. */
export interface Row {
  what: string;
  ratio: number;
  bar: number;
  isMost: boolean;
}

/** A row that was measured several times: its ratio is the median of all, which lie between the two ends. */
export interface MeasuredRow extends Row {
  lowest: number;
  highest: number;
}

/** The rows of several passes as one: each is the median of the passes that measured it. */
export function medianOf(passes: Row[][]): MeasuredRow[] {
  const rows = new Map(passes.flat().map((row) => [row.what, row]));
  return [...rows.values()].map((row) => {
    const same = passes.flat().filter(({ what }) => what === row.what);
    const ratios = same.map(({ ratio }) => ratio).sort((a, b) => a - b);
    const [lowest = Number.NaN] = ratios;
    return { ...row, ratio: ratios[ratios.length >> 1] ?? lowest, lowest, highest: ratios.at(-1) ?? lowest };
  });
}

export function isMet({ ratio, bar, isMost }: Row): boolean {
  return isMost ? ratio <= bar : ratio >= bar;
}

/** The rows as a table of Markdown. */
export function tableOf(rows: MeasuredRow[]): string {
  const lines = rows.map(
    (row) =>
      `| ${row.what} | ${row.ratio.toFixed(2)} | ${row.lowest.toFixed(2)} to ${row.highest.toFixed(2)} | ${row.isMost ? "≤" : "≥"} ${row.bar} | ${isMet(row) ? "met" : "missed"} |`,
  );
  return ["| what | median | measured | bar | |", "|---|---|---|---|---|", ...lines].join("\n");
}
