import type { ReactNode } from "react";
import type { rowsOf, ToolPiece } from "@/core/conversation/pieces";
import { count } from "../format";
import { CitingPieces, type CitingProps } from "./CitingPieces";
import { type Bracket, SheetRow, Who } from "./SheetRow";
import { ToolRow } from "./ToolRow";

/** The rows of a reply above its own: the calls of tools, and what the app said before it asked for them. */
export function RowsBefore({
  rows,
  app,
  turn,
  citing,
  tokens = [],
  bracket,
  sideOf,
  actsOf,
}: {
  rows: ReturnType<typeof rowsOf>["before"];
  /** The name of the app. */
  app: string;
  turn: number;
  /** How its words are read. */
  citing: Omit<CitingProps, "pieces">;
  /** Of each row, where tokens are shown. */
  tokens?: readonly number[];
  /** How the bracket of the reach runs along the first of them. */
  bracket?: Bracket;
  /** What else stands at a call, and what can be said to it. */
  sideOf?: (piece: ToolPiece) => ReactNode;
  actsOf?: (piece: ToolPiece) => ReactNode;
}) {
  return rows.map((row, at) => {
    const along = bracket && { ...bracket, first: bracket.first && at === 0 };
    const share = tokens[at];
    // rows are only added, and change in their place
    return Array.isArray(row) ? (
      <SheetRow
        key={at}
        tone="app"
        tokens={share === undefined ? undefined : count(share)}
        bracket={along}
        label={`Turn ${turn}, before the tools`}
      >
        <Who>{app}</Who>
        <CitingPieces pieces={row} {...citing} />
      </SheetRow>
    ) : (
      <ToolRow key={at} piece={row} turn={turn} tokens={share} bracket={along} side={sideOf?.(row)}>
        {actsOf?.(row)}
      </ToolRow>
    );
  });
}
