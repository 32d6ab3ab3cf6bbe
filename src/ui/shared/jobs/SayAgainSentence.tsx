import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { type Job, jobs } from "@/contract/jobs";
import { Action } from "../Action";
import { server } from "../api";
import { Beside } from "../beside/Beside";
import { Fallible } from "../Fallible";
import { count, many, price } from "../format";
import { NumberValue } from "../inline/NumberValue";
import { ProblemNote } from "../ProblemNote";
import { keys } from "../queries";
import { useChange } from "../use-change";
import styles from "./SayAgainSentence.module.css";
import { isRunning, useJobs } from "./use-jobs";

/** Where nothing is edited, all of the draft is stored. */
const stored = async () => {};

/**
 * Says what a visitor said in a conversation again, on the draft: what it would take first, then how far it is, and
 * what came of it beside the first.
 * @param through a message whose line is said again, instead of the one that is shown
 */
export default function SayAgainSentence({
  conversation,
  through,
  prepare = stored,
  onClose,
}: {
  conversation: string;
  through?: string;
  /** Stores what was edited of the draft. */
  prepare?: () => Promise<void>;
  onClose: () => void;
}) {
  const [isBeside, setBeside] = useState(false);
  const [isAnew, setAnew] = useState(false);
  const job = useJobs().find(({ work }) => work.kind === "say-again" && work.of === conversation);
  if (!job || isAnew) return <Asked {...{ conversation, through, prepare, onClose }} onBegun={() => setAnew(false)} />;
  const { work } = job;
  return (
    <div className={styles.words}>
      {job.problem && <ProblemNote problem={job.problem} />}
      <Standing job={job} />
      <div className={styles.links}>
        {work.kind === "say-again" && work.into && job.done > 0 && (
          <Action aria-expanded={isBeside} onClick={() => setBeside(!isBeside)}>
            {isBeside ? "fold what came of it" : "read it beside the first"}
          </Action>
        )}
        {!isRunning(job) && <Action onClick={() => setAnew(true)}>say it once more</Action>}
        <Action onClick={onClose}>close</Action>
      </div>
      {isBeside && work.kind === "say-again" && work.into && (
        <Fallible what="them side by side">
          <Beside
            onFold={() => setBeside(false)}
            left={{ conversation, through: work.through, title: "the first time" }}
            right={{ conversation: work.into, title: `said again on revision ${work.revision}` }}
            from={1}
          />
        </Fallible>
      )}
    </div>
  );
}

function Standing({ job }: { job: Job }) {
  const stopping = useChange("Stopping it", () => server.send(jobs.stop, { id: job.id }), [keys.jobs]);
  const { state, done, of } = job;
  return (
    <p className={styles.sentence} role={isRunning(job) ? undefined : "status"}>
      {state === "running" ? "Says" : "Said"} <b>{count(done)}</b> of {many(of, "message")} again
      {state === "stopped" && ", and was stopped"}
      {state === "failed" && ", and could not continue"}.{" "}
      {isRunning(job) && <Action onClick={() => stopping.run()}>stop</Action>}
    </p>
  );
}

/** What it would take, before anything is sent. */
function Asked({
  conversation,
  through,
  prepare,
  onBegun,
  onClose,
}: {
  conversation: string;
  through: string | undefined;
  prepare: () => Promise<void>;
  onBegun: () => void;
  onClose: () => void;
}) {
  const [most, setMost] = useState<number>();
  const estimate = useQuery({
    queryKey: [...keys.line(conversation), "said again", through],
    queryFn: async () => {
      await prepare();
      return server.send(jobs.estimate, { id: conversation, through });
    },
    staleTime: 0,
  });
  const beginning = useChange("Saying it again", async () => {
    await prepare();
    await server.send(jobs.sayAgain, { id: conversation, body: { through, mostPrice: most } });
    onBegun();
  }, [keys.jobs]);
  const problem = estimate.error?.problem ?? beginning.problem;
  const { data } = estimate;
  return (
    <div className={styles.words} aria-busy={estimate.isPending}>
      {problem && <ProblemNote problem={problem} />}
      {data && (
        <p className={styles.sentence}>
          Says <b>{many(data.messages, "message")}</b> again on the draft, one after another: about{" "}
          <b>{count(data.input)}</b> tokens in and {count(data.output)} out
          {data.summaries && data.summaries.count > 0 && (
            <>
              {" "}
              (and {count(data.summaries.input)} in and {count(data.summaries.output)} out for{" "}
              {many(data.summaries.count, "summary", "summaries")})
            </>
          )}
          , <b>{price(data.price, data.currency)}</b>. It may cost{" "}
          <NumberValue
            label={`Price at most, in ${data.currency}`}
            value={most}
            min={0}
            max={1_000_000}
            step={0.01}
            none={{ said: "anything" }}
            onChange={setMost}
          />
          {most === undefined ? "." : ` ${data.currency} at most.`}
        </p>
      )}
      <div className={styles.links}>
        <Button
          size="small"
          type="primary"
          autoFocus
          disabled={!data || beginning.isRunning}
          onClick={() => beginning.run()}
        >
          Say it again
        </Button>
        <Action onClick={onClose}>cancel</Action>
      </div>
    </div>
  );
}
