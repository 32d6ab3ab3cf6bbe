"use client";

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Dispatch, dispatches } from "@/contract/dispatches";
import type { DispatchNote } from "@/core/reply/note";
import { problemIn, server } from "../shared/api";
import { cost, count, duration, many } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { ProblemNote } from "../shared/ProblemNote";
import { ProviderName } from "../shared/ProviderName";
import { keys } from "../shared/queries";
import { Unfolding } from "../shared/sheet/Unfolding";
import { endingOf } from "../shared/wording/endings";
import { Arrivals, Axes } from "./Arrivals";
import styles from "./DispatchSheet.module.css";
import { Kept } from "./Kept";
import { Ledger } from "./Ledger";
import { SentRequest } from "./SentRequest";

const calls = { reply: dispatches.ofReply, summary: dispatches.ofSummary, making: dispatches.ofMaking };

/**
 * The dispatches of a reply, a summary or a reply of a trial, unfolded under it: what was asked and how it ended, when what came, and why
 * it cost what it did.
 */
export default function DispatchSheet({
  of,
  what = "reply",
  onFold,
}: {
  /** Its id. */
  of: string;
  what?: "reply" | "summary" | "making";
  onFold: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: keys.dispatches(of),
    queryFn: () => server.send(calls[what], { id: of }),
    staleTime: 0,
  });
  const [chosen, setChosen] = useState<string>();
  const all = data?.dispatches ?? [];
  const open = all.find(({ id }) => id === chosen) ?? all.at(-1);
  return (
    <Unfolding label="Dispatch" isRead={open !== undefined} onFold={onFold}>
      {error && <ProblemNote problem={problemIn(error, "The dispatch")} />}
      {open && (
        <div key={open.id} className={styles.sheet}>
          <Summary dispatch={open} attempts={all} onAttempt={setChosen} />
          <Axes dispatch={open} />
          <div className={styles.columns}>
            <section aria-label="Request">
              <h2>Request</h2>
              <SentRequest dispatch={open} />
            </section>
            <section aria-label="Answer">
              <h2>Answer, as it came and as it was read</h2>
              {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
              <section className={styles.arrived} tabIndex={0} aria-label="Arrivals">
                <Arrivals dispatch={open} />
              </section>
              <Headers dispatch={open} />
            </section>
          </div>
          {open.text !== "" && (
            <section aria-label="Read as">
              <h2>Read as</h2>
              <p className={styles.read}>{open.text}</p>
            </section>
          )}
          <section aria-label="Ledger">
            <h2>Ledger</h2>
            <Ledger dispatch={open} />
          </section>
          <Kept of={of} kept={data?.kept ?? { count: 0, bytes: 0 }} />
        </div>
      )}
    </Unfolding>
  );
}

function Summary({
  dispatch,
  attempts,
  onAttempt,
}: {
  dispatch: Dispatch;
  attempts: Dispatch[];
  onAttempt: (id: string) => void;
}) {
  const { model, provider, status, ms, usage, end, problem, verdict, limits, notes } = dispatch;
  return (
    <>
      <p className={styles.sentence}>
        {attempts.length > 1 && (
          <>
            <ChoiceValue
              label="Attempt"
              value={dispatch.id}
              options={attempts.map((each) => ({ value: each.id, label: wordsOfAttempt(each, attempts) }))}
              onChange={onAttempt}
            />
            {": "}
          </>
        )}
        <b>{model}</b> on{" "}
        <b>
          <ProviderName of={provider} />
        </b>{" "}
        answered{" "}
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
            : <b>{count(usage.input)}</b> tokens in, <b>{count(usage.output)}</b> out, <b>{cost(usage)}</b>
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

/** Which of several attempts one is, and how it ended; of which round, and where a reply was gone on with, of which call. */
function wordsOfAttempt({ call, round, attempt, end }: Dispatch, all: readonly Dispatch[]): string {
  const calls = all.at(-1)?.call ?? 1;
  const ofCall = all.filter((each) => each.call === call);
  const rounds = new Set(ofCall.map((each) => each.round));
  const hasRetries = ofCall.length > rounds.size;
  const which = [
    calls === 1 ? "" : `call ${call} of ${calls}`,
    rounds.size > 1 ? `round ${[...rounds].indexOf(round) + 1} of ${rounds.size}` : "",
    hasRetries || (calls === 1 && rounds.size === 1) ? `attempt ${attempt} of ${ofCall.length}` : "",
  ];
  return `${which.filter(Boolean).join(", ")}: ${end === null ? "under way" : endingOf(end)}`;
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
    case "mended":
      return (
        <p className={styles.quiet}>
          The provider changed what it had said{note.count > 1 && ` ${note.count} times`}: <q>{note.was}</q> became{" "}
          <q>{note.is}</q>. What was shown stays, and the reply goes on behind it.
        </p>
      );
    case "no-picture":
      return <p className={styles.quiet}>A picture of the reply is left out: {note.why}</p>;
    case "guarded":
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
