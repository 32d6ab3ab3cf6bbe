import { Fragment } from "react";
import { addressFor } from "@/contract/call";
import { benchFiles } from "@/contract/files";
import type { Piece } from "@/core/conversation/pieces";
import { DataTree } from "./DataTree";
import { Markdown } from "./Markdown";
import type { Marking } from "./marks";
import styles from "./Pieces.module.css";
import { PlainText } from "./PlainText";
import { ToolCall } from "./ToolCall";

/** The pieces of a message in their order: an app's texts are Markdown, a visitor's stand as they were written. */
export function Pieces({
  pieces,
  by,
  isArriving = false,
  markingOf,
}: {
  pieces: readonly Piece[];
  by: "visitor" | "app";
  isArriving?: boolean;
  /** Gives what is marked in each of the texts, by its place among them. */
  markingOf?: (text: number) => Marking | undefined;
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
      {piece.kind === "tool" && <ToolCall {...{ piece }} />}
      {piece.kind === "picture" && <Picture {...{ piece }} />}
      {piece.kind === "linked" && <PlainText text={`[picture at ${piece.address}]`} />}
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
