import dynamic from "next/dynamic";
import { type KeyboardEvent, memo, useCallback, useMemo, useRef, useState } from "react";
import { type MessageSet, sets } from "@/contract/sets";
import { type SetAnswer, type SetMark, textOfAnswer } from "@/core/comparing/sets/answer";
import { statedIn } from "@/core/comparing/stated";
import { piecesOf } from "@/core/conversation/pieces";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { duration, price } from "../../shared/format";
import { keyIn } from "../../shared/keys/table";
import { Pieces } from "../../shared/markdown/Pieces";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import { factWords } from "../facts/fact-words";
import { useFacts } from "../facts/use-facts";
import { type Cell, cellsOf, marksOf, movedBy, sameCells } from "./answered";
import styles from "./sets.module.css";

const DispatchSheet = dynamic(() => import("../../dispatch/DispatchSheet"), { ssr: false });

/** A set as a table: a row a message, a column a lane. While the names are hidden no column is a lane. */
export function SetTable({ set, names }: { set: MessageSet; names: readonly string[] }) {
  const { id, rows, lanes, hidesNames } = set;
  const table = useRef<HTMLTableElement>(null);
  const [at, setAt] = useState({ row: 0, column: 0 });
  const [open, setOpen] = useState<number>();
  const cells = useMemo(() => cellsOf(set), [set]);
  const marking = useChange(
    "The mark",
    (body: { row: number; lane: number; mark: SetMark | null }) => server.send(sets.mark, { id, body }),
    [keys.set(id)],
  );
  const { run: mark } = marking;
  const onMark = useCallback(
    (row: number, { lane, answer }: Cell, wanted: SetMark) =>
      answer && mark({ row, lane, mark: answer.mark === wanted ? null : wanted }),
    [mark],
  );
  const onOpen = useCallback((row: number) => setOpen((before) => (before === row ? undefined : row)), []);
  const onKeyDown = (event: KeyboardEvent) => {
    const place = placeOf(event.target as HTMLElement);
    const pressed = place && keyIn("answer", event.nativeEvent)?.id;
    if (!place || !pressed) return;
    const cell = cells[place.row]?.[place.column];
    if (pressed === "move") {
      const next = movedBy(event.key, place, { rows: rows.length, columns: lanes.length });
      if (!next) return;
      setAt(next);
      table.current?.querySelector<HTMLElement>(`[data-cell="${next.row} ${next.column}"]`)?.focus();
    } else if (pressed === "whole") onOpen(place.row);
    else if (cell) onMark(place.row, cell, pressed);
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div className={styles.sheet}>
      {marking.problem && <ProblemNote problem={marking.problem} />}
      <table className={styles.table} ref={table} aria-label="What was answered" onKeyDown={onKeyDown}>
        <thead>
          <tr>
            <th scope="col">message</th>
            {lanes.map((_, lane) => (
              <th key={lane} scope="col">
                {hidesNames ? <span className={styles.hidden}>a lane</span> : <b>{names[lane]}</b>}
                {!hidesNames && <Marks set={set} lane={lane} />}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((said, row) => (
            <AnsweredRow
              key={row}
              {...{ row, said, names, hidesNames, onMark, onOpen }}
              cells={cells[row] ?? []}
              focused={at.row === row ? at.column : undefined}
              isOpen={open === row}
              currency={set.currency}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Marks({ set, lane }: { set: MessageSet; lane: number }) {
  const [good, bad] = [marksOf(set, lane, "good"), marksOf(set, lane, "bad")];
  if (good + bad === 0) return null;
  return (
    <small>
      {good} good, {bad} bad
    </small>
  );
}

interface RowProps {
  row: number;
  said: readonly string[];
  cells: readonly Cell[];
  names: readonly string[];
  hidesNames: boolean;
  /** The column whose answer can have the focus. */
  focused: number | undefined;
  isOpen: boolean;
  currency: string;
  onMark: (row: number, cell: Cell, mark: SetMark) => void;
  onOpen: (row: number) => void;
}

const AnsweredRow = memo(
  DrawnRow,
  ({ cells, said, names, ...before }, { cells: next, said: _said, names: now, ...after }) =>
    sameCells(cells, next) && names.join() === now.join() && isShallowEqual(before, after),
);

function isShallowEqual(a: object, b: object): boolean {
  return Object.entries(a).every(([name, value]) => b[name as keyof typeof b] === value);
}

function DrawnRow(props: RowProps) {
  const { row, said, cells, names, hidesNames, focused, isOpen, currency, onMark, onOpen } = props;
  const texts = cells.map(({ answer }) => (answer ? textOfAnswer(answer) : undefined));
  const question = said.join("\n");
  const found = useFacts([...texts, question]);
  const facts = texts.map((text, at) => (text?.trim() ? found[at] : undefined));
  const differing = statedIn(facts, found[texts.length] ?? []).differing.filter(({ isAsked }) => !isAsked);
  const [making, setMaking] = useState<string>();
  return (
    <>
      <tr data-open={isOpen}>
        <th scope="row">
          <span className={styles.number}>{row + 1}</span>
          {said.map((text, at) => (
            <p key={at}>{text}</p>
          ))}
          <Action aria-expanded={isOpen} onClick={() => onOpen(row)}>
            {isOpen ? "fold" : "whole"}
          </Action>
        </th>
        {cells.map((cell, column) => (
          <td
            key={cell.lane}
            tabIndex={focused === column ? 0 : -1}
            data-cell={`${row} ${column}`}
            data-mark={cell.answer?.mark ?? undefined}
            aria-label={`Message ${row + 1}, ${hidesNames ? `answer ${column + 1}` : names[cell.lane]}: ${heard(texts[column])}`}
          >
            {cell.answer ? (
              <>
                <Words answer={cell.answer} isOpen={isOpen} />
                <Facts
                  facts={differing.flatMap(({ fact, places }) =>
                    (places[column]?.length ?? 0) > 0 ? [factWords(fact).what] : [],
                  )}
                />
                {!hidesNames && <Figures answer={cell.answer} currency={currency} />}
                {isOpen && !hidesNames && (
                  <Dispatches
                    answer={cell.answer}
                    open={making}
                    onOpen={(next) => setMaking(making === next ? undefined : next)}
                  />
                )}
                <span className={styles.marks}>
                  <Action aria-pressed={cell.answer.mark === "good"} onClick={() => onMark(row, cell, "good")}>
                    good
                  </Action>
                  <Action aria-pressed={cell.answer.mark === "bad"} onClick={() => onMark(row, cell, "bad")}>
                    bad
                  </Action>
                </span>
              </>
            ) : (
              <span className={styles.coming}>not answered yet</span>
            )}
          </td>
        ))}
      </tr>
      {isOpen && making && !hidesNames && (
        <tr>
          <td colSpan={cells.length + 1}>
            <DispatchSheet of={making} what="making" onFold={() => setMaking(undefined)} />
          </td>
        </tr>
      )}
    </>
  );
}

/** Characters of an answer that are heard where it gets the focus: all of it is read by unfolding its row. */
const longestHeard = 600;

function heard(text: string | undefined): string {
  return text?.trim() ? text.slice(0, longestHeard) : "not answered";
}

/** The ways to the dispatches of an answer. */
function Dispatches({
  answer: { replies },
  open,
  onOpen,
}: {
  answer: SetAnswer;
  open: string | undefined;
  onOpen: (making: string) => void;
}) {
  const makings = replies.flatMap(({ making }) => making ?? []);
  return makings.map((making, at) => (
    <Action key={making} aria-expanded={open === making} onClick={() => onOpen(making)}>
      {makings.length === 1 ? "dispatch" : `dispatch ${at + 1}`}
    </Action>
  ));
}

/** What was said: its beginning as plain words, or all of it. */
function Words({ answer, isOpen }: { answer: SetAnswer; isOpen: boolean }) {
  const problem = answer.replies.at(-1)?.figures.problem;
  return (
    <>
      {isOpen
        ? answer.replies.map(({ text }, at) => (
            <div key={at} className={styles.reply}>
              <Pieces pieces={piecesOf(text)} by="app" />
            </div>
          ))
        : textOfAnswer(answer).trim() !== "" && <p className={styles.words}>{textOfAnswer(answer)}</p>}
      {problem && <p className={styles.problem}>{problem.detail}</p>}
    </>
  );
}

/** The facts of an answer that not all of its row state. */
function Facts({ facts }: { facts: readonly string[] }) {
  if (facts.length === 0) return null;
  return (
    <p className={styles.facts}>
      <span>not all state</span> <b>{facts.join(", ")}</b>
    </p>
  );
}

function Figures({ answer: { replies }, currency }: { answer: SetAnswer; currency: string }) {
  const last = replies.at(-1)?.figures;
  const paid = replies.flatMap(({ figures }) => figures.price ?? []);
  const said = [
    last && last.outcome !== "complete" && !last.problem && last.outcome,
    replies[0]?.figures.firstTextMs !== undefined && `${duration(replies[0].figures.firstTextMs)} to text`,
    duration(replies.reduce((sum, { figures }) => sum + figures.ms, 0)),
    paid.length > 0 &&
      price(
        paid.reduce((all, each) => all + each, 0),
        last?.currency ?? currency,
      ),
  ].filter(Boolean);
  return <small className={styles.figures}>{said.join(" · ")}</small>;
}

/** Where an answer stands that has the focus. */
function placeOf(element: HTMLElement): { row: number; column: number } | undefined {
  const [row, column] = element.dataset.cell?.split(" ").map(Number) ?? [];
  return row === undefined || column === undefined ? undefined : { row, column };
}
