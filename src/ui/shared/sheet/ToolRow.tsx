import type { ReactNode } from "react";
import type { ToolPiece } from "@/core/conversation/pieces";
import { count, duration } from "../format";
import { ToolWords } from "../markdown/ToolCall";
import { wordsOfAnswerer, wordsOfOutcome } from "../wording/calls";
import { type Bracket, SheetRow, Who } from "./SheetRow";
import styles from "./sheet.module.css";

/** Outcomes that are told without a word: the answer tells them. */
const plain = new Set(["answered", "waiting"]);

/** A call of a tool in a row of its own: what a model asked for, what it got, from whom, and how long that took. */
export function ToolRow({
  piece,
  turn,
  tokens,
  bracket,
  side,
  children,
}: {
  piece: ToolPiece;
  turn: number;
  tokens?: number;
  bracket?: Bracket;
  /** What else stands at it. */
  side?: ReactNode;
  /** What can be said to one that waits for somebody. */
  children?: ReactNode;
}) {
  const { name, outcome, ms, round } = piece;
  const words = wordsOfOutcome(piece);
  const isOpen = outcome === "waiting";
  return (
    <SheetRow
      tone="tool"
      tokens={tokens === undefined ? undefined : count(tokens)}
      bracket={bracket}
      label={`Turn ${turn}, tool ${name}, ${words}`}
      side={
        <>
          <div>
            {wordsOfAnswerer(piece)}
            {ms !== undefined && !isOpen && `, ${duration(ms)}`}
          </div>
          {isOpen && <div>{words}</div>}
          {!plain.has(outcome) && <div className={styles.caution}>{words}</div>}
          <div>
            round {round}
            {side && <> · {side}</>}
          </div>
        </>
      }
    >
      <div className={styles.reply}>
        <Who>Tool</Who>
        <ToolWords piece={piece} />
      </div>
      {children}
    </SheetRow>
  );
}
