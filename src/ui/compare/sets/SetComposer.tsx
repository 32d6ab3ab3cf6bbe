import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import Link from "next/link";
import { useEffect, useMemo, useRef, useState } from "react";
import { sets } from "@/contract/sets";
import { type ReadRows, type Row, readRows, readRowsFile, writtenRows } from "@/core/comparing/sets/rows";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { inWords } from "../../shared/candidate/candidate-words";
import composer from "../../shared/composer.module.css";
import { count, many, price } from "../../shared/format";
import { NumberValue } from "../../shared/inline/NumberValue";
import { keyIn } from "../../shared/keys/table";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { keptTexts, useKeptText } from "../../shared/use-kept-text";
import type { NewLane } from "../comparison";
import { chooseLanes } from "../fresh-lanes";
import styles from "./sets.module.css";

/** Milliseconds that what is typed rests before it is said what it would cost. */
const rest = 400;
/** Faults that are listed. */
const mostFaults = 5;

/** Where the messages of a set are written, a line each, with what asking them would cost. */
export function SetComposer({
  slug,
  lanes,
  names,
  isAsking,
  onAsk,
}: {
  slug: string;
  lanes: readonly NewLane[];
  names: readonly string[];
  isAsking: boolean;
  onAsk: (rows: readonly Row[], mostPrice: number | undefined) => void;
}) {
  const name = `finch.set.${slug}`;
  const text = useKeptText(name);
  const [most, setMost] = useState<number>();
  const [fromFile, setFromFile] = useState<{ name: string; faults: ReadRows["faults"] }>();
  const file = useRef<HTMLInputElement>(null);
  const { rows, faults } = useMemo(() => readRows(text), [text]);
  const ahead = useAhead(slug, lanes, faults.length > 0 ? [] : rows);
  const problems = (ahead ?? []).flatMap(({ problem }, at) => (problem ? [{ problem, name: names[at] ?? "" }] : []));
  const canAsk = rows.length > 0 && faults.length === 0 && !isAsking && lanes.length > 1;
  const ask = () => canAsk && onAsk(rows, most);
  const take = async (given: File) => {
    const read = readRowsFile(given.name, await given.text());
    setFromFile({ name: given.name, faults: read.faults });
    if (read.faults.length === 0) keptTexts.write(name, writtenRows([...rows, ...read.rows]));
  };
  return (
    <>
      <div className={styles.messages}>
        <p className={styles.explains}>
          Write a message a line. An indented line goes on with the conversation of the line above it. Or take{" "}
          <Action onClick={() => file.current?.click()}>a file</Action> (text, CSV or JSON Lines), or{" "}
          <Link href={`/apps/${slug}/history`} onClick={() => chooseLanes(slug, lanes)}>
            choose conversations in History
          </Link>
          .
        </p>
        <input
          ref={file}
          hidden
          type="file"
          aria-label="File of messages"
          accept=".txt,.csv,.tsv,.jsonl,.ndjson,.json"
          onChange={({ target }) => {
            const [given] = target.files ?? [];
            if (given) void take(given);
            target.value = "";
          }}
        />
        {fromFile && fromFile.faults.length > 0 && <Faults what={`${fromFile.name} was not taken`} {...fromFile} />}
        <div data-focus="home" className={styles.text}>
          <Input.TextArea
            aria-label="Messages of the set, a line each"
            autoFocus
            value={text}
            placeholder={"Which morning boats take bicycles?\nWhat does a dog cost?\n  And two dogs?"}
            onChange={(event) => keptTexts.write(name, event.target.value)}
            onKeyDown={(event) => {
              if (event.nativeEvent.isComposing || keyIn("set", event.nativeEvent)?.id !== "ask") return;
              ask();
              event.preventDefault();
              event.stopPropagation();
            }}
          />
        </div>
      </div>
      <div className={composer.composer}>
        {faults.length > 0 && <Faults what="Some of it can't be taken" faults={faults} />}
        {problems.map(({ problem, name }) => (
          <ProblemNote key={name} problem={{ ...problem, detail: `${name}: ${problem.detail}` }} />
        ))}
        <div className={composer.cost}>
          <span>
            <b>{many(rows.length, "row")}</b> for {inWords(lanes.length)} lanes
          </span>
          {ahead && rows.length > 0 && <Cost ahead={ahead} />}
          <span>
            may cost{" "}
            <NumberValue
              label="Price at most"
              value={most}
              min={0}
              max={1_000_000}
              step={0.01}
              none={{ said: "anything" }}
              onChange={setMost}
            />
          </span>
          <span className={styles.push} />
          <Button type="primary" disabled={!canAsk} onClick={ask} aria-keyshortcuts="Alt+Enter">
            {lanes.length === 2 ? "Ask both" : `Ask all ${inWords(lanes.length)}`}
          </Button>
        </div>
      </div>
    </>
  );
}

function Faults({ what, faults }: { what: string; faults: ReadRows["faults"] }) {
  const told = faults.slice(0, mostFaults).map(({ line, why }) => `line ${line} ${why}`);
  const more = faults.length - told.length;
  return (
    <p role="alert" className={styles.faults}>
      <b>{what}:</b> {told.join("; ")}
      {more > 0 && `; and ${more} more`}. Change {faults.length === 1 ? "this line" : "these lines"}; all else stays as
      it is.
    </p>
  );
}

/** What a set would cost in all lanes. */
function Cost({ ahead }: { ahead: NonNullable<ReturnType<typeof useAhead>> }) {
  const sum = (of: (lane: (typeof ahead)[0]) => number | null) =>
    ahead.reduce((all: number | null, lane) => {
      const each = of(lane);
      return all === null || each === null ? null : all + each;
    }, 0);
  const [usual, most] = [sum(({ usual }) => usual), sum(({ most }) => most)];
  const currency = ahead[0]?.currency ?? "EUR";
  return (
    <>
      <span>
        about <b>{count(sum(({ tokens }) => tokens) ?? 0)}</b> tokens in
      </span>
      <span>
        {usual === null ? (
          "a price is not set"
        ) : (
          <>
            about <b>{price(usual, currency)}</b>,{" "}
            {most === null ? (
              "with no limit"
            ) : (
              <>
                at most <b>{price(most, currency)}</b>
              </>
            )}
          </>
        )}
      </span>
    </>
  );
}

/** What a set would cost in each lane, once it was not typed in for a moment. */
function useAhead(slug: string, lanes: readonly NewLane[], rows: readonly Row[]) {
  const [settled, setSettled] = useState(rows);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(rows), rest);
    return () => clearTimeout(timer);
  }, [rows]);
  const body = { lanes: lanes.map(({ base, content }) => ({ base, content })), rows: settled.map((row) => [...row]) };
  const { data } = useQuery({
    queryKey: [...keys.setAhead(slug), body],
    queryFn: () => server.send(sets.ahead, { slug, body }),
    placeholderData: (before) => before,
    enabled: settled.length > 0 && lanes.length > 1,
    gcTime: 10_000,
  });
  return data?.lanes;
}
