import { useMemo, useState } from "react";
import type { Source } from "@/contract/sources";
import { type Forecast, forecastOn } from "@/core/context/forecast";
import type { Part } from "@/core/context/reach";
import type { Content } from "@/core/revision/content";
import { Action } from "../../shared/Action";
import type { DocumentPlace } from "../../shared/documents/DocumentSheet";
import { count, many } from "../../shared/format";
import { TextValue } from "../../shared/inline/TextValue";
import { useNow } from "../../shared/use-now";
import { wordsOfPassage } from "../../shared/wording/places";
import { wordsFor } from "../../shared/wording/reasons";
import styles from "./SourcesStation.module.css";
import type { SceneFindings } from "./use-question";

/** Passages that are listed, of those that are left out. */
const mostLeftOut = 6;

/** What a question finds: which passages go along, and why the others don't. */
export function FoundPassages({
  findings,
  content,
  ahead,
  all,
  onOpen,
}: {
  findings: SceneFindings;
  content: Content;
  /** Of the next message. */
  ahead: Forecast;
  all: readonly Source[];
  onOpen: (place: DocumentPlace) => void;
}) {
  const [showsAll, setShowsAll] = useState(false);
  const { next, shown: asked, isTried, onTry } = findings;
  const { question, found, unready, wordsAlone } = asked;
  const now = useNow();
  const { parts: every } = useMemo(
    () => (question === next.question ? ahead : forecastOn(content, ahead.track, ahead.room, now, { found })),
    [question, next.question, ahead, content, found, now],
  );
  const parts = every.filter((part): part is Part & { passage: NonNullable<Part["passage"]> } => !!part.passage);
  const carried = parts.filter((part) => part.carried);
  const left = parts.filter((part) => !part.carried);
  const shown = [...carried, ...left].sort((a, b) => a.passage.rank - b.passage.rank);
  const most = carried.length + mostLeftOut;
  const textOf = (id: string) => found?.find(({ passage }) => passage === id)?.text ?? "";
  const names = unready.map((id) => all.find((each) => each.id === id)?.title ?? "a document").join(", ");
  return (
    <section aria-label="What a question finds">
      <div className={styles.head}>
        <h2>{isTried ? "What this question finds" : "What the next message finds"}</h2>
        <span>
          <TextValue
            label="Question to try"
            value={question}
            placeholder="type a question to try"
            maxLength={2_000}
            onChange={onTry}
          />
          {isTried && (
            <>
              {" "}
              <Action onClick={() => onTry("")}>what is typed instead</Action>
            </>
          )}
        </span>
      </div>
      {names !== "" && (
        <p className={styles.quiet} role="status">
          Not looked for in {names}: not read yet.
        </p>
      )}
      {wordsAlone && question !== "" && (
        <p className={styles.quiet} data-standing="caution" role="status">
          By words alone: {wordsAlone.detail} {wordsAlone.advice}
        </p>
      )}
      {question === "" && !found?.length ? (
        <p className={styles.quiet}>Type a message, or a question here, to see what it finds. No model answers it.</p>
      ) : found === undefined ? (
        <p className={styles.quiet}>Looking…</p>
      ) : shown.length === 0 ? (
        <p className={styles.quiet}>Nothing is found: no passage has one of its words.</p>
      ) : (
        <ol className={styles.found}>
          {shown.slice(0, showsAll ? undefined : most).map((part) => {
            const { passage } = part;
            return (
              <li key={passage.passage} data-carried={part.carried}>
                <b>{part.carried ? passage.rank : "–"}</b>
                <div>
                  <p>{textOf(passage.passage)}</p>
                  <small>
                    <Action
                      onClick={() =>
                        onOpen({
                          source: passage.source,
                          title: passage.title,
                          version: passage.version,
                          from: passage.where.from,
                          to: passage.where.to,
                        })
                      }
                    >
                      {wordsOfPassage(passage)}
                    </Action>
                    {" · "}
                    {part.carried ? `${many(part.tokens, "token")} as [${passage.mark}]` : wordsFor(part.reason)}
                  </small>
                </div>
                <span
                  className={styles.likeness}
                  role="img"
                  aria-label={`likeness ${Math.round(passage.likeness * 100)}%`}
                >
                  <i style={{ width: `${passage.likeness * 100}%` }} />
                </span>
              </li>
            );
          })}
        </ol>
      )}
      {shown.length > most && (
        <Action onClick={() => setShowsAll(!showsAll)}>
          {showsAll ? "fold them" : `${count(shown.length - most)} more that are left out`}
        </Action>
      )}
    </section>
  );
}
