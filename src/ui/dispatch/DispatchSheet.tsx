"use client";

import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { type Dispatch, type DispatchNote, dispatches } from "@/contract/dispatches";
import { problemIn, server } from "../shared/api";
import { endingOf } from "../shared/endings";
import { count, duration, many, price } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { ChoiceWord } from "../shared/words";
import { Arrivals, Axes } from "./Arrivals";
import styles from "./DispatchSheet.module.css";
import { Kept } from "./Kept";
import { Ledger } from "./Ledger";
import { SentRequest } from "./SentRequest";

/**
 * The dispatches of a reply or a summary, unfolded under it: what was asked and how it ended, when what came, and why
 * it cost what it did.
 */
export default function DispatchSheet({
  of,
  what = "reply",
  onFold,
}: {
  /** Its id. */
  of: string;
  what?: "reply" | "summary";
  onFold: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: keys.dispatches(of),
    queryFn: () => server.send(what === "reply" ? dispatches.ofReply : dispatches.ofSummary, { id: of }),
    staleTime: 0,
  });
  const [attempt, setAttempt] = useState<number>();
  const all = data?.dispatches ?? [];
  const open = all.find((each) => each.attempt === attempt) ?? all.at(-1);
  const sheet = useRef<HTMLElement>(null);
  const isRead = open !== undefined;
  useEffect(() => {
    if (isRead) sheet.current?.scrollIntoView({ block: "nearest" });
  }, [isRead]);
  return (
    <section className={styles.sheet} aria-label="Dispatch" ref={sheet}>
      <button type="button" className={`link ${styles.fold}`} onClick={onFold}>
        fold
      </button>
      {error && <ProblemNote problem={problemIn(error, "The dispatch")} />}
      {open && (
        <div key={open.id}>
          <Summary dispatch={open} attempts={all} onAttempt={setAttempt} />
          <Axes dispatch={open} />
          <div className={styles.columns}>
            <section aria-label="Request">
              <h3>Request</h3>
              <SentRequest dispatch={open} />
            </section>
            <section aria-label="Answer">
              <h3>Answer, as it came and as it was read</h3>
              {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
              <section className={styles.arrived} tabIndex={0} aria-label="Arrivals">
                <Arrivals dispatch={open} />
              </section>
              <Headers dispatch={open} />
            </section>
          </div>
          {open.text !== "" && (
            <section aria-label="Read as">
              <h3>Read as</h3>
              <p className={styles.read}>{open.text}</p>
            </section>
          )}
          <section aria-label="Ledger">
            <h3>Ledger</h3>
            <Ledger dispatch={open} />
          </section>
          <Kept of={of} kept={data?.kept ?? { count: 0, bytes: 0 }} />
        </div>
      )}
    </section>
  );
}

function Summary({
  dispatch,
  attempts,
  onAttempt,
}: {
  dispatch: Dispatch;
  attempts: Dispatch[];
  onAttempt: (attempt: number) => void;
}) {
  const { model, provider, status, ms, usage, end, problem, verdict, limits, notes } = dispatch;
  return (
    <>
      <p className={styles.sentence}>
        {attempts.length > 1 && (
          <>
            <ChoiceWord
              label="Attempt"
              value={String(dispatch.attempt)}
              options={attempts.map((each) => ({
                value: String(each.attempt),
                label: `attempt ${each.attempt} of ${attempts.length}: ${each.end === null ? "under way" : endingOf(each.end)}`,
              }))}
              onChange={(value) => onAttempt(Number(value))}
            />
            {": "}
          </>
        )}
        <b>{model}</b> on <b>{provider}</b> answered{" "}
        {status === null ? (
          "nothing"
        ) : (
          <>
            with status <b>{status}</b>
          </>
        )}
        {ms !== null && (
          <>
            {" "}
            in <b>{duration(ms)}</b>
          </>
        )}
        {usage && (
          <>
            : <b>{count(usage.input)}</b> tokens in, <b>{count(usage.output)}</b> out,{" "}
            <b>{price(usage.price, usage.currency)}</b>
            {usage.estimated && ", estimated"}
          </>
        )}
        . It ended: <b className={problem ? styles.bad : undefined}>{end === null ? "not yet" : endingOf(end)}</b>.
      </p>
      {problem && <ProblemNote problem={problem} />}
      <p className={styles.verdict} data-kind={verdict.kind}>
        {verdict.saying}
      </p>
      {limits.map(({ of, left, most, resets }) => (
        <p key={of} className={styles.quiet}>
          {left} of {most ?? "an unknown number of"} {of} left{resets ? `, anew in ${resets}` : ""}.
        </p>
      ))}
      {notes.map((note) => (
        <Note key={note.kind === "count-left-out" ? note.count : note.kind} note={note} />
      ))}
    </>
  );
}

/** Something odd about the dispatch, in words. */
function Note({ note }: { note: DispatchNote }) {
  switch (note.kind) {
    case "count-left-out":
      return (
        <p className={styles.quiet}>
          It counted <code>{note.found}</code> tokens of {note.count}, which is no count: it was left out, and the usage
          is estimated.
        </p>
      );
    case "passed-over":
      return (
        <p className={styles.quiet}>
          {many(note.count, "event")} that no rule reads {note.count === 1 ? "was" : "were"} passed over; the first is{" "}
          <code>{note.found}</code>.
        </p>
      );
    case "secret-in-pieces":
      // said where the bytes would stand
      return null;
  }
}

/** The headers of the answer, on request. */
function Headers({ dispatch: { headers } }: { dispatch: Dispatch }) {
  const all = Object.entries(headers);
  if (all.length === 0) return null;
  return (
    <details className={styles.quiet}>
      <summary>{all.length} headers of the answer</summary>
      <dl className={styles.headers}>
        {all.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </details>
  );
}
