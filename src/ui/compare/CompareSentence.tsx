import type { ReactNode } from "react";
import { Action } from "../shared/Action";
import type { Spoken } from "../shared/candidate/candidate-words";
import { many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { TextValue } from "../shared/inline/TextValue";
import styles from "./Compare.module.css";
import { LanesSaid } from "./LanesSaid";
import type { Shows } from "./TurnSection";

/** What a comparison asks of whom, what is shown of it, and under what name it is saved. */
export function CompareSentence({
  lanes,
  names,
  panel,
  shows,
  isAsked,
  name,
  from,
  saved,
  onPanel,
  onAdd,
  onFromStart,
  onShow,
  onName,
  otherwise,
}: {
  lanes: readonly (Spoken & { key: string })[];
  names: readonly string[];
  /** What is unfolded under it: a candidate by its key, or the list. */
  panel: string | undefined;
  shows: Shows;
  isAsked: boolean;
  name: string | null;
  /** From where they are asked, in words. */
  from: string;
  /** How many comparisons are saved. */
  saved: number;
  /** Unfolds a candidate or the list, or folds what is. */
  onPanel: (panel: string) => void;
  onAdd: (() => void) | undefined;
  onFromStart: (() => void) | undefined;
  onShow: (shows: Shows) => void;
  onName: (name: string) => void;
  /** Ways to ask them otherwise. */
  otherwise: ReactNode;
}) {
  return (
    <div className={styles.asks}>
      <p>
        Asks <LanesSaid {...{ lanes, panel, onPanel }} /> the same question, {from}.{" "}
        {onAdd && <Action onClick={onAdd}>one more</Action>}
        {onFromStart && (
          <>
            {" "}
            <Action onClick={onFromStart}>from the start instead</Action>
          </>
        )}
      </p>
      <div className={styles.under}>
        {isAsked && (
          <>
            <span>
              shows{" "}
              <ChoiceValue
                label="What is shown over the lanes"
                value={shows.kind === "words" ? `words ${shows.against}` : shows.kind}
                options={[
                  { value: "facts", label: "the facts that they don't all state" },
                  ...lanes.map(({ key }, at) => ({ value: `words ${key}`, label: `the words against ${names[at]}` })),
                  { value: "candidates", label: "what differs between the candidates" },
                ]}
                onChange={(next) =>
                  onShow(
                    next.startsWith("words ")
                      ? { kind: "words", against: next.slice(6) }
                      : { kind: next === "candidates" ? "candidates" : "facts" },
                  )
                }
              />
            </span>
            <span>
              saved as{" "}
              <TextValue
                label="Name of this comparison"
                value={name ?? ""}
                placeholder="no name"
                maxLength={100}
                onChange={onName}
              />
            </span>
          </>
        )}
        <Action aria-expanded={panel === "list"} data-focus="list" onClick={() => onPanel("list")}>
          {many(saved, "saved comparison")}
        </Action>
        {otherwise}
      </div>
    </div>
  );
}
