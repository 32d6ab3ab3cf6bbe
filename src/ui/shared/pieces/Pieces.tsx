import { Fragment } from "react";
import { addressFor } from "@/contract/call";
import { benchFiles } from "@/contract/files";
import { argumentsText, type Piece, resultText, type ToolOutcome, type ToolPiece } from "@/core/conversation/pieces";
import { count, duration } from "../format";
import styles from "./Pieces.module.css";

/**
 * The pieces of a message in their order; whoever shows it says how its texts are written.
 * @param text of a piece, and whether more of it may still come
 */
export function Pieces({
  pieces,
  isArriving = false,
  text,
}: {
  pieces: readonly Piece[];
  isArriving?: boolean;
  text: (text: string, isArriving: boolean) => React.ReactNode;
}) {
  return pieces.map((piece, at) => (
    // pieces are only added at the end, or change in their place
    <Fragment key={at}>
      {piece.kind === "text" && text(piece.text, isArriving && at === pieces.length - 1)}
      {piece.kind === "tool" && <ToolCall {...{ piece }} />}
      {piece.kind === "picture" && <Picture {...{ piece }} />}
      {piece.kind === "data" && <pre className={styles.data}>{JSON.stringify(piece.value, null, 2)}</pre>}
    </Fragment>
  ));
}

/** What is said of a call that has no answer, or another one than was hoped for. */
const outcomeWords: Record<ToolOutcome, string> = {
  waiting: "waits for its answer",
  answered: "answered",
  failed: "failed",
  "timed-out": "did not answer in time",
  refused: "was not called",
  stopped: "was stopped",
  unknown: "nobody knows whether it happened",
};

/** A call of a tool: what a model asked for, and what came of it. */
function ToolCall({ piece }: { piece: ToolPiece }) {
  const { name, arguments: given, outcome, ms, round } = piece;
  const isOpen = outcome === "waiting";
  const time = ms === undefined || isOpen ? "" : ` after ${duration(ms)}`;
  return (
    <div className={styles.tool} data-outcome={outcome}>
      <div>
        <b>{name}</b> <code>{argumentsText(given)}</code>{" "}
        <span className={styles.outcome}>
          {outcomeWords[outcome]}
          {time}, round {round}
        </span>
      </div>
      {!isOpen && <Answer text={resultText(piece)} />}
    </div>
  );
}

/** Letters of an answer that are shown at once. */
const shownAtOnce = 600;

function Answer({ text }: { text: string }) {
  if (text.length <= shownAtOnce) return <pre className={styles.answer}>{text}</pre>;
  return (
    <details className={styles.answer}>
      <summary>
        {text.slice(0, 120).trimEnd()}… ({count(text.length)} letters)
      </summary>
      <pre>{text}</pre>
    </details>
  );
}

/** Pixels of the longer side that a picture is shown with at most. */
const shownSide = 240;

function Picture({ piece: { file, width, height } }: { piece: Extract<Piece, { kind: "picture" }> }) {
  const scale = Math.min(shownSide / Math.max(width, height), 1);
  return (
    <img
      className={styles.picture}
      src={addressFor(benchFiles.read, { hash: file })}
      width={Math.max(Math.round(width * scale), 1)}
      height={Math.max(Math.round(height * scale), 1)}
      loading="lazy"
      alt={`${width} by ${height} pixels`}
    />
  );
}
