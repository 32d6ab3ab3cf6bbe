import type { ReactNode } from "react";
import type { WantedRun } from "@/contract/checks";
import { Action } from "../shared/Action";
import { laneSaid, listed, type Spoken } from "../shared/candidate/candidate-words";
import { many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { NumberValue } from "../shared/inline/NumberValue";
import { Unfolds } from "../shared/inline/Unfolds";
import styles from "./Checks.module.css";

/** Where the answers of a run come from, and whether they are recorded. */
export type Answers = WantedAnswers | "recording";
type WantedAnswers = NonNullable<WantedRun["answers"]>;

/** What a run is to be, in a sentence whose values are edited where they stand. */
export function ChecksSentence({
  names,
  only,
  trials,
  columns,
  panel,
  leavesOut,
  answers,
  button,
  onOnly,
  onTrials,
  onPanel,
  onAdd,
  onLeavesOut,
  onAnswers,
}: {
  /** The names of all checks. */
  names: readonly string[];
  /** The one that is run alone; undefined for all. */
  only: string | undefined;
  trials: number;
  columns: readonly (Spoken & { key: string })[];
  panel: string | undefined;
  leavesOut: boolean;
  answers: Answers;
  button: ReactNode;
  onOnly: (name: string | undefined) => void;
  onTrials: (trials: number) => void;
  onPanel: (key: string) => void;
  onAdd: (() => void) | undefined;
  onLeavesOut: (leavesOut: boolean) => void;
  onAnswers: (answers: Answers) => void;
}) {
  return (
    <div className={styles.runs}>
      <p>
        Runs{" "}
        <ChoiceValue
          label="Which checks"
          value={only ?? ""}
          isSearched={names.length > 8}
          options={[
            { value: "", label: `all ${many(names.length, "check")}` },
            ...names.map((name) => ({ value: name, label: name, said: `“${name}”` })),
          ]}
          onChange={(name) => onOnly(name === "" ? undefined : name)}
        />
        ,{" "}
        <NumberValue
          label="Trials of each check on each candidate"
          value={trials}
          min={1}
          max={200}
          onChange={(next) => onTrials(next ?? 1)}
        />{" "}
        {trials === 1 ? "time" : "times"} each, on{" "}
        {columns.map((column, at) => (
          <span key={column.key}>
            {at > 0 && (at === columns.length - 1 ? " and " : ", ")}
            <Unfolds isOpen={panel === column.key} onClick={() => onPanel(column.key)}>
              {laneSaid(column)}
            </Unfolds>
          </span>
        ))}
        ,{" "}
        <ChoiceValue
          label="What is asked again"
          value={leavesOut ? "changed" : "all"}
          options={[
            { value: "all", label: "asking all of it" },
            { value: "changed", label: "asking what has changed since it was run" },
          ]}
          onChange={(next) => onLeavesOut(next === "changed")}
        />
        ,{" "}
        <ChoiceValue<Answers>
          label="Where the answers come from"
          value={answers}
          options={[
            { value: "called", label: "calling the providers" },
            { value: "recording", label: "calling the providers, and recording them" },
            { value: "recorded-first", label: "playing what is recorded, and calling for the rest" },
            { value: "recorded", label: "playing what is recorded alone" },
          ]}
          onChange={onAnswers}
        />
        . {onAdd && <Action onClick={onAdd}>one more</Action>}
      </p>
      <div className={styles.button}>{button}</div>
    </div>
  );
}

/** "the draft, reed-swift and revision 3". */
export function columnsSaid(columns: readonly Spoken[]): string {
  return listed(columns.map(laneSaid));
}
