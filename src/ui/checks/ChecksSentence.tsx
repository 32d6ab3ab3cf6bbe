import type { ReactNode } from "react";
import { Action } from "../shared/Action";
import { laneSaid, listed, type Spoken } from "../shared/candidate/candidate-words";
import { many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { NumberValue } from "../shared/inline/NumberValue";
import { Unfolds } from "../shared/inline/Unfolds";
import styles from "./Checks.module.css";

/** What a run is to be, in a sentence whose values are edited where they stand. */
export function ChecksSentence({
  names,
  only,
  trials,
  columns,
  panel,
  leavesOut,
  button,
  onOnly,
  onTrials,
  onPanel,
  onAdd,
  onLeavesOut,
}: {
  /** The names of all checks. */
  names: readonly string[];
  /** The one that is run alone; undefined for all. */
  only: string | undefined;
  trials: number;
  columns: readonly (Spoken & { key: string })[];
  panel: string | undefined;
  leavesOut: boolean;
  button: ReactNode;
  onOnly: (name: string | undefined) => void;
  onTrials: (trials: number) => void;
  onPanel: (key: string) => void;
  onAdd: (() => void) | undefined;
  onLeavesOut: (leavesOut: boolean) => void;
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
