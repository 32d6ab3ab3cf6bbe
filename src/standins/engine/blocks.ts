import type { Manner } from "./manner";
import { listed } from "./words";

/** A part of an answer before it is written out. */
export type Block = { kind: "text"; text: string } | { kind: "rows"; lead: string; head: string[]; rows: string[][] };

/** How rows are written; a list unless something else was asked for. */
export type RowStyle = "list" | "table" | "running text";

/** Writes an answer out, as the manner allows. */
export function written(blocks: Block[], manner: Manner, style: RowStyle): string {
  const isShort = manner.sentences !== undefined || manner.words !== undefined || manner.characters !== undefined;
  const plain = manner.noLists || manner.noMarkdown || isShort || style === "running text";
  const parts = blocks.map((block) =>
    block.kind === "text" ? block.text : rowsOf(block, plain ? "running text" : style),
  );
  return parts.join(blocks.some((block) => block.kind === "rows") && !plain ? "\n\n" : " ");
}

function rowsOf({ lead, head, rows }: Extract<Block, { kind: "rows" }>, style: RowStyle): string {
  if (style === "running text")
    return `${lead} ${listed(rows.map(([first, ...rest]) => (rest.length > 0 ? `${first} (${rest.join(", ")})` : `${first}`)))}.`;
  if (style === "list")
    return `${lead}\n\n${rows.map(([first, ...rest]) => `- **${first}**${rest.length ? `, ${rest.join(", ")}` : ""}`).join("\n")}`;
  const line = (cells: string[]) => `| ${head.map((_, at) => cells[at] ?? "").join(" | ")} |`;
  return `${lead}\n\n${line(head)}\n${line(head.map(() => "---"))}\n${rows.map(line).join("\n")}`;
}
