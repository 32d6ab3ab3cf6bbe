import { memo, useState } from "react";
import type { Miss, Run, RunCheck } from "@/contract/checks";
import type { Check, Line } from "@/core/checks/script";
import { Action } from "../shared/Action";
import { many, price } from "../shared/format";
import styles from "./Checks.module.css";
import { outcomesAt, type ShownCheck, sourceLine, tallyOf } from "./groups";
import { LineWords } from "./LineWords";
import { lacks, neededWords, sawWords } from "./miss-words";
import { TrialBars } from "./TrialBars";
import { TrialSheet } from "./TrialSheet";

interface Props {
  run: Run;
  shown: ShownCheck;
  /** The place of the column that others are held against. */
  against: number;
  isOpen: boolean;
  nameOf: (slug: string) => string;
  onOpen: (place: number | undefined) => void;
  onMore: (check: number, trials: number) => void;
  onEdit: (script: string, line: number) => void;
}

/** A check of a run: what it says, line by line, and beside each line how it came out on each candidate. */
export const CheckRows = memo(function CheckRows({
  run,
  shown,
  against,
  isOpen,
  nameOf,
  onOpen,
  onMore,
  onEdit,
}: Props) {
  const { check, read, standings } = shown;
  const [trial, setTrial] = useState<string>();
  const firstMisses = firstMissesOf(check);
  const expectations = read?.lines.filter(({ says }) => says.kind === "expect").length ?? 0;
  const more = standings.flatMap((standing) => (standing?.kind === "perhaps-worse" ? [standing] : []))[0];
  return (
    <article className={styles.check} aria-label={check.name}>
      <div className={styles.line} data-head>
        <span className={styles.number}>{check.lines[0]}</span>
        <span className={styles.says}>
          <Action
            className={styles.name}
            aria-expanded={isOpen}
            onClick={() => onOpen(isOpen ? undefined : check.place)}
          >
            {check.name}
          </Action>
          {isOpen && read?.least && (
            <span className={styles.quiet}>
              passes in {read.least.held} of {read.least.of} trials
            </span>
          )}
          {!isOpen && <span className={styles.quiet}>{many(expectations, "expectation")}</span>}
          {isOpen && (
            <span className={styles.acts}>
              <Action onClick={() => onEdit(check.script, check.lines[0] ?? 1)}>edit</Action>
              {more?.more && (
                <Action onClick={() => onMore(check.place, more.more as number)}>
                  run {more.more} more of this one
                  {more.price ? `, about ${price(more.price, run.currency ?? "EUR")}` : ""}
                </Action>
              )}
            </span>
          )}
        </span>
        {check.cells.map((cell) => (
          <span key={cell.column} className={styles.cell}>
            <TrialBars outcomes={cell.trials.map(({ outcome }) => outcome.charAt(0)).join("")} />
          </span>
        ))}
      </div>
      {isOpen &&
        read?.lines
          .slice(1)
          .map((line) => (
            <CheckLine
              key={line.line}
              {...{ run, shown, read, line, against, nameOf }}
              isFirst={firstMisses.get(line.line) ?? noColumns}
              onTrial={setTrial}
            />
          ))}
      {isOpen && trial && <TrialSheet id={trial} onFold={() => setTrial(undefined)} />}
      {isOpen && (
        <p className={styles.trials}>
          {check.cells.map((cell) => (
            <span key={cell.column}>
              {run.columns[cell.column]?.name}: {cell.trials.length === 0 && "not tried yet"}
              {cell.trials.slice(0, mostLinks).map((each) => (
                <Action
                  key={each.id}
                  aria-label={`Trial ${each.trial} on ${run.columns[cell.column]?.name}: ${each.outcome}`}
                  aria-expanded={trial === each.id}
                  onClick={() => setTrial(trial === each.id ? undefined : each.id)}
                >
                  trial {each.trial}
                </Action>
              ))}
              {cell.trials.length > mostLinks && `and ${cell.trials.length - mostLinks} more`}
              {tallyOf(cell).of > 0 &&
                cell.trials.every(({ isTaken }) => isTaken) &&
                " (as in an earlier run: nothing has changed)"}
            </span>
          ))}
        </p>
      )}
    </article>
  );
});

const noColumns: ReadonlySet<number> = new Set();

/** The columns whose first miss is on a line, by the line: what a candidate lacks is said once. */
function firstMissesOf({ cells }: RunCheck): ReadonlyMap<number, ReadonlySet<number>> {
  const first = new Map<number, Set<number>>();
  for (const { column, misses } of cells) {
    const line = misses.find(({ judged }) => judged.outcome === "broke")?.judged.line;
    if (line !== undefined) first.set(line, (first.get(line) ?? new Set()).add(column));
  }
  return first;
}

/** Trials of a cell that are linked. */
const mostLinks = 12;

function CheckLine({
  run,
  shown: { check },
  read,
  line,
  against,
  isFirst,
  nameOf,
  onTrial,
}: {
  run: Run;
  shown: ShownCheck;
  read: Check;
  line: Line;
  against: number;
  /** The columns of which this is the first line that broke. */
  isFirst: ReadonlySet<number>;
  nameOf: (slug: string) => string;
  onTrial: (id: string) => void;
}) {
  const { says } = line;
  const isExpected = says.kind === "expect";
  const misses = check.cells.flatMap((cell) => {
    const miss = cell.misses.find(({ judged }) => judged.line === line.line);
    return miss ? [{ miss, column: cell.column }] : [];
  });
  const [first, ...others] = misses;
  return (
    <>
      <div className={styles.line} data-kind={says.kind}>
        <span className={styles.number}>{sourceLine(check, read, line)}</span>
        <span className={styles.says}>
          <LineWords line={line} />
        </span>
        {check.cells.map((cell) => (
          <span key={cell.column} className={styles.cell}>
            {isExpected && <TrialBars outcomes={outcomesAt(read, line.line, cell)} isQuiet />}
          </span>
        ))}
      </div>
      {isExpected && first && (
        <div className={styles.miss}>
          {[
            first,
            ...others.filter(({ miss }) => sawWords(miss, says.expectation) !== sawWords(first.miss, says.expectation)),
          ].map(({ miss, column }) => (
            <MissWords
              key={column}
              {...{ run, miss, column, nameOf, onTrial }}
              against={isFirst.has(column) ? against : undefined}
              expectation={says.expectation}
            />
          ))}
        </div>
      )}
    </>
  );
}

function MissWords({
  run,
  miss,
  column,
  against,
  expectation,
  nameOf,
  onTrial,
}: {
  run: Run;
  miss: Miss;
  column: number;
  /** The column that it is told from in what it lacks; undefined where that is told already. */
  against: number | undefined;
  expectation: Parameters<typeof sawWords>[1];
  nameOf: (slug: string) => string;
  onTrial: (id: string) => void;
}) {
  const own = run.columns[column];
  const base = against === undefined ? undefined : run.columns[against];
  const needed = neededWords(miss);
  const missing =
    base && own && column !== against && miss.judged.outcome === "broke"
      ? lacks(base.content, own.content, miss, expectation, nameOf)
      : undefined;
  return (
    <div>
      <p>
        {own?.name}, trial {miss.number}: {sawWords(miss, expectation)} ·{" "}
        <Action onClick={() => onTrial(miss.trial)}>the reply and its dispatch</Action>
      </p>
      {needed && (
        <p>
          “{needed.need}” <b>{needed.isSent ? "was sent and not used" : "was not sent"}</b>: {needed.where}
        </p>
      )}
      {missing && missing.sentences.length + missing.changes.length > 0 && (
        <p>
          {own?.name} {missing.sentences.length > 0 ? "lacks" : "differs in"}:{" "}
          {missing.sentences.map((sentence) => (
            <del key={sentence}>{sentence}</del>
          ))}
          {missing.changes.map((change) => (
            <span key={change} className={styles.change}>
              {change}
            </span>
          ))}
        </p>
      )}
    </div>
  );
}
