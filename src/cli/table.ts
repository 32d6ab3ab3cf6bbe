/** Letters of a cell of a table. */
const widest = 60;

/** Rows in columns that are as wide as what stands in them. */
export function tableOf(rows: readonly (readonly string[])[]): string {
  const cells = rows.map((row) => row.map((cell) => (cell.length > widest ? `${cell.slice(0, widest - 1)}…` : cell)));
  const widths = (cells[0] ?? []).map((_, at) => Math.max(...cells.map((row) => row[at]?.length ?? 0)));
  return cells
    .map((row) =>
      row
        .map((cell, at) => cell.padEnd(widths[at] ?? 0))
        .join("  ")
        .trimEnd(),
    )
    .join("\n");
}
