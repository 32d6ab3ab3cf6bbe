import { argumentsText, resultText, type ToolPiece } from "@/core/conversation/pieces";
import { count, duration } from "../format";
import { wordsOfOutcome } from "../wording/calls";
import styles from "./ToolCall.module.css";

/** A call of a tool within a text: what a model asked for, and what came of it. */
export function ToolCall({ piece }: { piece: ToolPiece }) {
  const { outcome, ms, round } = piece;
  const time = ms === undefined || outcome === "waiting" ? "" : ` after ${duration(ms)}`;
  return (
    <div className={styles.tool} data-outcome={outcome}>
      <b>Tool</b>{" "}
      <span className={styles.outcome}>
        {wordsOfOutcome(piece)}
        {time}, round {round}
      </span>
      <ToolWords piece={piece} />
    </div>
  );
}

/** What a model asked a tool for, and its answer, once there is one. */
export function ToolWords({ piece }: { piece: ToolPiece }) {
  return (
    <div className={styles.words}>
      {piece.name}({argumentWords(piece.arguments)}){piece.outcome !== "waiting" && <Answer text={resultText(piece)} />}
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
  if (text.length <= shownAtOnce) return <> → {text}</>;
  return (
    <details>
      <summary>
        → {text.slice(0, 120).trimEnd()}… ({count(text.length)} letters)
      </summary>
      {text}
    </details>
  );
}
