import { parse } from "csv-parse/browser/esm/sync";
import { type Block, rowInWords } from "../document";
import { separatorOf, separators } from "../kinds";

/** Thrown where a table can't be read; the message says which line, and why. */
export class UnreadableTable extends Error {}

/** A table as text (RFC 4180, with whatever parts its columns) as blocks: a row each, with the names of its columns. @throws {UnreadableTable} */
export function blocksOfTable(text: string): Block[] {
  const delimiter = separatorOf(text) ?? mostIn(text.split(/[\r\n]/, 1)[0] ?? "");
  let rows: string[][];
  try {
    rows = parse(text, { bom: true, delimiter, relax_column_count: true, skip_empty_lines: true }) as string[][];
  } catch (error) {
    throw new UnreadableTable((error as Error).message);
  }
  const [head = [], ...body] = rows;
  return body.flatMap((cells, at): Block[] => {
    const said = rowInWords(head, cells);
    return said === "" ? [] : [{ kind: "row", row: at + 1, text: said }];
  });
}

/** What parts the names of columns, where rows have more or fewer cells than there are names. */
function mostIn(head: string): string {
  const count = (separator: string) => head.split(separator).length;
  return separators.reduce((most, separator) => (count(separator) > count(most) ? separator : most), ",");
}
