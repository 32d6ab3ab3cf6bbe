import { useQueryClient } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { useEffect, useRef, useState } from "react";
import { addressFor } from "@/contract/call";
import { type MessageSet, sets } from "@/contract/sets";
import { problemOf } from "@/core/comparing/sets/answer";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { count, many, price } from "../../shared/format";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import { withAnswers } from "./answered";
import styles from "./sets.module.css";

const SetSpread = dynamic(() => import("./SetSpread"), { ssr: false });

/** How far a set is, what can be done with it, and how its figures spread. */
export function SetStanding({ slug, set, names }: { slug: string; set: MessageSet; names: readonly string[] }) {
  const client = useQueryClient();
  const [showsSpread, setShowsSpread] = useState(false);
  const said = useEnding(set);
  const changing = useChange(
    "The set",
    async (change: () => Promise<MessageSet>) => {
      const next = await change();
      client.setQueryData(keys.set(set.id), (before: MessageSet | undefined) =>
        before ? withAnswers(before, next) : next,
      );
    },
    [keys.sets(slug), keys.jobs],
  );
  const { id, state, done, of, canResume, hidesNames, unmarked, seenEarly, answers } = set;
  const isUnderWay = state === "running" || state === "waiting";
  const failed = answers.filter((answer) => problemOf(answer)).length;
  const does = (change: () => Promise<MessageSet>) => () => changing.run(change);
  return (
    <section aria-label="How far the set is">
      <div className={styles.standing}>
        <span>
          {isUnderWay ? "asking" : "asked"} <b>{count(done)}</b> of {many(of, "answer")}
          {failed > 0 && (
            <>
              , <b className={styles.bad}>{count(failed)} failed</b>
            </>
          )}
        </span>
        <span>
          <b>{price(set.price, set.currency)}</b>
          {set.mostPrice !== null && ` of at most ${price(set.mostPrice, set.currency)}`}
        </span>
        {isUnderWay && <Action onClick={does(() => server.send(sets.stop, { id }))}>stop</Action>}
        {canResume && <Action onClick={does(() => server.send(sets.resume, { id }))}>continue</Action>}
        {!isUnderWay && failed > 0 && (
          <Action onClick={does(() => server.send(sets.askFailedAgain, { id }))}>ask what failed again</Action>
        )}
        {hidesNames ? (
          <>
            <span>
              <b>{many(unmarked, "answer")}</b> to mark, then the names are shown
            </span>
            <Action onClick={does(() => server.send(sets.hideNames, { id, body: { areHidden: false } }))}>
              show the names now
            </Action>
          </>
        ) : (
          <>
            {unmarked > 0 && !isUnderWay && (
              <Action onClick={does(() => server.send(sets.hideNames, { id, body: { areHidden: true } }))}>
                mark them, names hidden
              </Action>
            )}
            {seenEarly > 0 && <span>names were shown with {many(seenEarly, "answer")} unmarked</span>}
            <Action aria-expanded={showsSpread} onClick={() => setShowsSpread(!showsSpread)}>
              spread
            </Action>
            <span>
              download{" "}
              <a href={addressFor(sets.file, { id, as: "csv" })} download={`${slug}-set.csv`}>
                CSV
              </a>
              ,{" "}
              <a href={addressFor(sets.file, { id, as: "jsonl" })} download={`${slug}-set.jsonl`}>
                JSON Lines
              </a>
            </span>
          </>
        )}
      </div>
      {set.problem && <ProblemNote problem={set.problem} />}
      {changing.problem && <ProblemNote problem={changing.problem} />}
      {showsSpread && !hidesNames && <SetSpread set={set} names={names} />}
      <p className="unseen" role="status">
        {said}
      </p>
    </section>
  );
}

/** Says once how a set ended, to those who hear the page. */
function useEnding({ state, done, of }: MessageSet): string {
  const was = useRef(state);
  const [said, setSaid] = useState("");
  useEffect(() => {
    if (was.current === "running" && state !== "running") setSaid(`The set has ended: ${done} of ${of} answers.`);
    was.current = state;
  }, [state, done, of]);
  return said;
}
