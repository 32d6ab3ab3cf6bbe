import { type KeyboardEvent, memo } from "react";
import type { Fact } from "@/core/comparing/facts/facts";
import type { Stated } from "@/core/comparing/stated";
import { Action } from "../shared/Action";
import { listed } from "../shared/candidate/candidate-words";
import { many } from "../shared/format";
import { keyIn } from "../shared/keys/table";
import styles from "./FactStrip.module.css";
import { factWords } from "./facts/fact-words";

/** A fact that a lane states, which is shown in its words. */
export interface Pointed {
  lane: number;
  key: string;
  fact: Fact;
}

interface Props {
  turn: number;
  names: readonly string[];
  shared: readonly Stated[];
  differing: readonly Stated[];
  /** Which lanes have said all that they say; the others state nothing yet. */
  isDone: readonly boolean[];
  marks: ReadonlyMap<string, boolean>;
  pointed: Pointed | undefined;
  onPoint: (pointed: Pointed | undefined) => void;
  /** Marks a fact as right or wrong; null takes the mark away. */
  onMark: (key: string, isRight: boolean | null) => void;
}

/** Facts that are listed in the sentence over the strip. */
const mostListed = 4;

/** The facts of a turn: a row for each that not all lanes state, a column a lane. A minority is shown, not judged. */
export const FactStrip = memo(function FactStrip(props: Props) {
  const { turn, names, shared, differing, isDone, marks } = props;
  const isOver = isDone.every(Boolean);
  const told = shared.filter(({ isAsked }) => !isAsked);
  const said = told.slice(0, mostListed).map(({ fact }) => factWords(fact).what);
  const more = told.length - said.length;
  const summary = [
    differing.length === 0
      ? isOver
        ? "no fact differs"
        : "no fact differs so far"
      : `${many(differing.length, "fact")} ${differing.length === 1 ? "differs" : "differ"}`,
    said.length > 0 && `all state ${listed([...said, ...(more > 0 ? [`${more} more`] : [])])}`,
  ]
    .filter(Boolean)
    .join("; ");
  if (differing.length === 0) return <p className={styles.none}>{summary}</p>;
  return (
    <table className={styles.strip} aria-label={`Facts of turn ${turn}`}>
      <thead>
        <tr>
          <th scope="col" className={styles.summary}>
            {summary}
          </th>
          {names.map((name) => (
            <th key={name} scope="col">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {differing.map((row) => (
          <FactRow key={row.key} row={row} {...props} mark={marks.get(row.key)} />
        ))}
      </tbody>
    </table>
  );
});

function FactRow({
  row,
  names,
  isDone,
  mark,
  pointed,
  onPoint,
  onMark,
}: Props & { row: Stated; mark: boolean | undefined }) {
  const { key, fact, places, isAsked } = row;
  const { what, about } = factWords(fact);
  const stating = places.filter((each) => each.length > 0).length;
  const toggle = (isRight: boolean) => onMark(key, mark === isRight ? null : isRight);
  const onKeyDown = (event: KeyboardEvent) => {
    const pressed = keyIn("fact", event.nativeEvent)?.id;
    if (pressed === undefined) return;
    toggle(pressed === "right");
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <tr data-asked={isAsked} onKeyDown={onKeyDown}>
      <th scope="row">
        <span className={styles.fact}>
          {what}
          {about && <small> · {about}</small>}
        </span>
        {isAsked && <small className={styles.asked}>in the question</small>}
        <span className={styles.marks} data-marked={mark !== undefined}>
          <Action aria-pressed={mark === true} aria-label={`${what} is right`} onClick={() => toggle(true)}>
            right
          </Action>
          <Action aria-pressed={mark === false} aria-label={`${what} is wrong`} onClick={() => toggle(false)}>
            wrong
          </Action>
        </span>
      </th>
      {names.map((name, lane) => {
        const [place] = places[lane] ?? [];
        if (!place)
          return (
            <td key={name}>
              {isDone[lane] ? (
                <>
                  <i className={styles.silent} aria-hidden="true" />
                  <span className="unseen">not stated</span>
                </>
              ) : (
                <span className={styles.coming}>…</span>
              )}
            </td>
          );
        const isPointed = pointed?.lane === lane && pointed.key === key;
        return (
          <td key={name}>
            <button
              type="button"
              className={styles.states}
              aria-pressed={isPointed}
              aria-label={`${name} states ${what}: show where`}
              onClick={() => onPoint(isPointed ? undefined : { lane, key, fact: place })}
            >
              <i aria-hidden="true" />
              {stating === 1 && <span>only here</span>}
            </button>
          </td>
        );
      })}
    </tr>
  );
}
