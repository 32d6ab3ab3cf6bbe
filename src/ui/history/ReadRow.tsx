import { type LineMessage, mostCounted } from "@/contract/conversations";
import { benchMarks } from "@/contract/marks";
import { rowsOf } from "@/core/conversation/pieces";
import type { Rating } from "@/core/conversation/rating";
import type { Cited } from "@/core/sources/found";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import type { DocumentPlace } from "../shared/documents/DocumentSheet";
import { many, turnsUpTo } from "../shared/format";
import type { Marking } from "../shared/markdown/marks";
import { Pieces } from "../shared/markdown/Pieces";
import { CitingPieces } from "../shared/sheet/CitingPieces";
import { RowsBefore } from "../shared/sheet/RowsBefore";
import { SheetRow, Who } from "../shared/sheet/SheetRow";
import { Siblings } from "../shared/sheet/Siblings";
import sheet from "../shared/sheet/sheet.module.css";
import { useChange } from "../shared/use-change";
import { wordsOfState } from "../shared/wording/endings";
import { madeBy } from "../shared/wording/makers";
import styles from "./Reading.module.css";

/** Two messages in the same place of two lines. */
export interface OtherOne {
  turn: number;
  left: string;
  right: string;
}

/** What a row needs beside its message. */
export interface ReadRowProps {
  /** The name of the app. */
  app: string;
  message: LineMessage;
  /** Marks the words that were searched for. */
  marking: Marking | undefined;
  /** What stands side by side. */
  beside: OtherOne | undefined;
  onRead: (through: string) => void;
  onBeside: (beside: OtherOne | undefined) => void;
  onDocument: (place: DocumentPlace) => void;
}

/** A stored message, read where it stands. */
export function ReadRow({ app, message, marking, beside, onRead, onBeside, onDocument }: ReadRowProps) {
  const { id, turn, role, siblings } = message;
  const what = role === "visitor" ? "line" : "take";
  const at = siblings.findIndex((each) => each.id === id);
  const other = siblings[at - 1] ?? siblings[at + 1];
  const { before, last } = role === "app" ? rowsOf(message) : { before: [], last: message.pieces };
  const citing =
    message.role === "app"
      ? {
          cites: message.facts.cites,
          strayMarks: message.facts.strayMarks,
          marking,
          onOpenDocument: ({ source, title, version }: Cited, stretch: { from: number; to: number }) =>
            onDocument({ source, title, version, ...stretch }),
        }
      : {};
  return (
    <>
      <RowsBefore rows={before} {...{ app, turn, citing }} />
      <SheetRow
        tone={role}
        turn={role === "visitor" ? String(turn) : undefined}
        label={`Turn ${turn}, ${role === "visitor" ? "visitor" : "reply"}`}
        side={
          <>
            {message.role === "app" && <ReplySide message={message} />}
            {siblings.length > 1 && other && (
              <Siblings
                what={what}
                of={siblings}
                shown={id}
                turn={turn}
                verb="Read "
                isBeside={beside?.right === id}
                onShow={onRead}
                onBeside={() => onBeside(beside?.right === id ? undefined : { turn, left: other.id, right: id })}
              />
            )}
          </>
        }
      >
        <div className={sheet.reply}>
          <Who>{role === "visitor" ? "Visitor" : app}</Who>
          {message.role === "visitor" ? (
            <Pieces pieces={message.pieces} by="visitor" markingOf={() => marking} />
          ) : (
            <CitingPieces pieces={last} {...citing} />
          )}
        </div>
        {role === "visitor" && siblings.length > 1 && (
          <span className={styles.parting}>
            {many(siblings.length, "line")} part here:{" "}
            {siblings
              .map(
                (each, place) => `${each.name ? `“${each.name}”` : place + 1}, ${turnsUpTo(each.turns, mostCounted)}`,
              )
              .join(" · ")}
          </span>
        )}
      </SheetRow>
    </>
  );
}

function ReplySide({ message }: { message: Extract<LineMessage, { role: "app" }> }) {
  const { id, state, ratings } = message;
  const rating = useChange("The mark", (next: Rating | null) =>
    server.send(benchMarks.rate, { id, body: { rating: next } }),
  );
  return (
    <>
      <div>{madeBy(message.facts)}</div>
      {state !== "complete" && <div className={styles.caution}>{wordsOfState(state)}</div>}
      <div className={styles.pressed}>
        {(["good", "bad"] as const).map((each, at) => (
          <span key={each}>
            {at > 0 && " · "}
            <Action
              aria-pressed={ratings.bench === each}
              onClick={() => rating.run(ratings.bench === each ? null : each)}
            >
              {each}
            </Action>
          </span>
        ))}
        {ratings.visitor && <span> · visitor: {ratings.visitor}</span>}
      </div>
    </>
  );
}
