import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useState } from "react";
import { type RetrievalRun, retrieval } from "@/contract/retrieval";
import {
  meanReciprocalRank,
  mostCuts,
  type RetrievalCut,
  type RetrievalResult,
  type RetrievalWay,
  shareAmong,
} from "@/core/sources/retrieval";
import { Action } from "../../shared/Action";
import { problemIn, server } from "../../shared/api";
import { count, many, moment, price } from "../../shared/format";
import { NumberValue } from "../../shared/inline/NumberValue";
import { isRunning, useJobs } from "../../shared/jobs/use-jobs";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import sentences from "../../shared/sentences/sentences.module.css";
import tables from "../../shared/table.module.css";
import { useChange } from "../../shared/use-change";
import { liveReplies } from "../../shared/use-live-reply";
import { useNow } from "../../shared/use-now";
import { RetrievalQuestions } from "./RetrievalQuestions";
import styles from "./RetrievalTest.module.css";

const wayWords: Record<RetrievalWay, string> = { words: "the words", meaning: "the meaning", merged: "both" };

/** Places up to which shares are told. */
const firsts = [1, 3, 5];

/** How well questions find the passages that answer them: in each way, and with documents cut otherwise. No model answers. */
export default function RetrievalTest({ slug, question }: { slug: string; question: string }) {
  const client = useQueryClient();
  useEffect(
    () =>
      liveReplies.onChange((what) => {
        if (what === slug) void client.invalidateQueries({ queryKey: keys.retrieval(slug) });
      }),
    [client, slug],
  );
  const query = useQuery({
    queryKey: keys.retrieval(slug),
    queryFn: () => server.send(retrieval.read, { slug }),
  });
  const [more, setMore] = useState<RetrievalCut[]>([]);
  const running = useJobs().find((job) => isRunning(job) && job.work.kind === "retrieval");
  const asking = useChange(
    "Testing retrieval",
    (cuts: RetrievalCut[]) => server.send(retrieval.run, { slug, body: { cuts } }),
    [keys.jobs, keys.retrieval(slug)],
  );
  if (query.error) return <ProblemNote problem={problemIn(query.error, "The questions")} />;
  if (!query.data) return <div aria-busy="true" />;
  const { questions, runs, cut, ways, vectors } = query.data;
  const asked = questions.filter(({ isAsked, isThere }) => isAsked && isThere).length;
  const [run] = runs;
  const set = (at: number, change: Partial<RetrievalCut>) =>
    setMore(more.map((each, place) => (place === at ? { ...each, ...change } : each)));
  return (
    <section className={styles.test} aria-label="Test retrieval">
      <div className={sentences.sentence}>
        <b>{many(asked, "question")}</b>, asked of passages of <b>{count(cut.size)}</b> tokens, {count(cut.overlap)}{" "}
        over
        {more.map((each, at) => (
          <span key={at}>
            , of{" "}
            <NumberValue
              label={`Tokens of a passage, ${at + 2}`}
              value={each.size}
              min={20}
              max={4_000}
              onChange={(size) => size !== undefined && set(at, { size })}
            />{" "}
            tokens,{" "}
            <NumberValue
              label={`Tokens that a passage repeats, ${at + 2}`}
              value={each.overlap}
              min={0}
              max={1_000}
              onChange={(overlap) => overlap !== undefined && set(at, { overlap })}
            />{" "}
            over (<Action onClick={() => setMore(more.filter((_, place) => place !== at))}>without</Action>)
          </span>
        ))}
        , found by {ways.length > 1 ? "the words, the meaning and both" : "the words"}.{" "}
        <Button
          size="small"
          type="primary"
          disabled={asked === 0 || running !== undefined}
          loading={asking.isRunning}
          onClick={() => asking.run([cut, ...more])}
        >
          Ask them
        </Button>
      </div>
      <div className={sentences.under}>
        {more.length < mostCuts - 1 && (
          <Action onClick={() => setMore([...more, { size: nextSize(cut, more), overlap: cut.overlap }])}>
            another size beside it
          </Action>
        )}
        <span>No model answers.</span>
        {vectors && more.length > 0 && (
          <span>
            Each further size has vectors made of about {many(vectors.tokens, "token")}
            {vectors.isPriced ? `, ${price(vectors.price, vectors.currency)}` : ", price not set"}, where they are not
            kept yet.
          </span>
        )}
        {running && (
          <span role="status">
            {running.done} of {running.of} asked.
          </span>
        )}
      </div>
      {asking.problem && <ProblemNote problem={asking.problem} />}
      {run && run.results.length > 0 && <Results run={run} cut={cut} />}
      <RetrievalQuestions slug={slug} questions={questions} run={run} tried={question} />
    </section>
  );
}

/** Half of what there is, or twice that, or what of the next such is not there already. */
function nextSize({ size }: RetrievalCut, more: readonly RetrievalCut[]): number {
  const known = new Set([size, ...more.map((each) => each.size)]);
  const sizes = [1 / 2, 2, 1 / 3, 3, 1 / 4, 4].map((times) => Math.round(size * times));
  return sizes.find((each) => each >= 20 && each <= 4_000 && !known.has(each)) ?? size;
}

/** What came of the last time: a row a way and a cut, the shares and the mean reciprocal rank in columns. */
function Results({ run, cut }: { run: RetrievalRun; cut: RetrievalCut }) {
  const now = useNow();
  const ranks = run.results.filter(({ problem }) => !problem).map(({ places }) => meanReciprocalRank(places));
  // where all are alike, none is best
  const best = new Set(ranks).size > 1 ? Math.max(...ranks) : undefined;
  return (
    <table className={`${tables.table} ${styles.results}`}>
      <caption>
        {many(run.asked.length, "question")}, {moment(run.at, now)}: the share whose passage is among the first
      </caption>
      <thead>
        <tr>
          <th scope="col">Passages</th>
          <th scope="col">Found by</th>
          {firsts.map((first) => (
            <th key={first} scope="col">
              {first}
            </th>
          ))}
          <th scope="col">Mean reciprocal rank</th>
        </tr>
      </thead>
      <tbody>
        {run.results.map((each) => (
          <tr key={`${each.size} ${each.overlap} ${each.way}`}>
            <th scope="row">
              {count(each.size)} tokens, {count(each.overlap)} over
              {each.size === cut.size && each.overlap === cut.overlap && <small> as now</small>}
            </th>
            <td>{wayWords[each.way]}</td>
            {each.problem ? (
              <td colSpan={firsts.length + 1} data-standing="bad">
                {each.problem.detail} {each.problem.advice}
              </td>
            ) : (
              <Shares result={each} isBest={meanReciprocalRank(each.places) === best} />
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Shares({ result: { places }, isBest }: { result: RetrievalResult; isBest: boolean }) {
  return (
    <>
      {firsts.map((first) => (
        <td key={first}>{shareAmong(places, first)}%</td>
      ))}
      <td>
        {meanReciprocalRank(places).toFixed(2)}
        {isBest && <small> best</small>}
      </td>
    </>
  );
}
