import { Fragment, type ReactNode } from "react";
import { addressFor } from "@/contract/call";
import { benchFiles } from "@/contract/files";
import { argumentsText, type Piece, resultText, type ToolOutcome, type ToolPiece } from "@/core/conversation/pieces";
import { count, duration } from "../format";
import { DataTree } from "./DataTree";
import { Markdown } from "./Markdown";
import type { Marking } from "./marks";
import styles from "./Pieces.module.css";
import { PlainText } from "./PlainText";

/** The pieces of a message in their order: an app's texts are Markdown, a visitor's stand as they were written. */
export function Pieces({
  pieces,
  by,
  isArriving = false,
  markingOf,
  actsOf,
}: {
  pieces: readonly Piece[];
  by: "visitor" | "app";
  isArriving?: boolean;
  /** Gives what is marked in each of the texts, by its place among them. */
  markingOf?: (text: number) => Marking | undefined;
  /** What can be done with a call of a tool that waits for somebody. */
  actsOf?: (piece: ToolPiece) => ReactNode;
}) {
  let texts = 0;
  const hasData = pieces.some(({ kind }) => kind === "data");
  return pieces.map((piece, at) => (
    // pieces are only added at the end, or change in their place
    <Fragment key={at}>
      {piece.kind === "text" && !hasData && (
        <Text
          text={piece.text}
          by={by}
          isArriving={isArriving && at === pieces.length - 1}
          marking={markingOf?.(texts++)}
        />
      )}
      {piece.kind === "tool" && (
        <>
          <ToolCall {...{ piece }} />
          {piece.outcome === "waiting" && piece.waitsFor && actsOf?.(piece)}
        </>
      )}
      {piece.kind === "picture" && <Picture {...{ piece }} />}
      {piece.kind === "data" && (
        <>
          <DataTree value={piece.value} />
          {pieces.map((each, place) =>
            each.kind === "text" ? <DataText key={place} text={each.text} marking={markingOf?.(texts++)} /> : null,
          )}
        </>
      )}
    </Fragment>
  ));
}

/** The text of which data was read: that is shown instead. */
function DataText({ text, marking }: { text: string; marking: Marking | undefined }) {
  const marks = marking?.(text, 0);
  return (
    <details className={styles.data} open={marks && marks.length > 0}>
      <summary>as it was written</summary>
      <PlainText text={text} marks={marks} />
    </details>
  );
}

function Text({
  text,
  by,
  isArriving,
  marking,
}: {
  text: string;
  by: "visitor" | "app";
  isArriving: boolean;
  marking: Marking | undefined;
}) {
  if (by === "app") return <Markdown text={text} isArriving={isArriving} marking={marking} />;
  return <PlainText text={text} marks={marking?.(text, 0)} />;
}

/** What is said of a call that has no answer, or another one than was hoped for. */
const outcomeWords: Record<ToolOutcome, string> = {
  waiting: "waits for its answer",
  answered: "answered",
  failed: "failed",
  "timed-out": "did not answer in time",
  refused: "was not called",
  declined: "was declined",
  stopped: "was stopped",
  unknown: "nobody knows whether it happened",
};

const waitingWords = {
  leave: "waits until it is allowed",
  hand: "waits for an answer by hand",
  caller: "waits for its caller",
};

/** A call of a tool: what a model asked for, and what came of it. */
function ToolCall({ piece }: { piece: ToolPiece }) {
  const { name, arguments: given, outcome, ms, round } = piece;
  const isOpen = outcome === "waiting";
  const time = ms === undefined || isOpen ? "" : ` after ${duration(ms)}`;
  return (
    <div className={styles.tool} data-outcome={outcome}>
      <div>
        <b>Tool</b>{" "}
        <code>
          {name}({argumentWords(given)})
        </code>{" "}
        <span className={styles.outcome}>
          {isOpen && piece.waitsFor ? waitingWords[piece.waitsFor] : outcomeWords[outcome]}
          {time}, round {round}
        </span>
      </div>
      {!isOpen && <Answer text={resultText(piece)} />}
    </div>
  );
}

/** The arguments of a call, each by its name. */
function argumentWords(given: ToolPiece["arguments"]): string {
  if (typeof given !== "object" || given === null || Array.isArray(given)) return argumentsText(given);
  return Object.entries(given)
    .map(([name, value]) => `${name}: ${JSON.stringify(value)}`)
    .join(", ");
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
