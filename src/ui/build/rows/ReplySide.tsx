import { useEffect, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import { wordFor } from "@/core/problem/problem";
import { canGoOn, isUnderWay, type Reply } from "@/core/reply/reply";
import { wordsOfState } from "../../shared/endings";
import { cost, count, many } from "../../shared/format";
import { madeBy } from "../../shared/makers";
import styles from "./Row.module.css";
import type { RowActions } from "./row-actions";
import { Siblings } from "./Siblings";

type AppMessage = Extract<LineMessage, { role: "app" }>;

interface SideProps {
  message: AppMessage;
  reply: Reply;
  tokens: number;
  isLast: boolean;
  isInspected: boolean;
  limit: number | undefined;
  isBeside: boolean;
  actions: RowActions;
}

/** What is known of a reply: who made it, how fast, for how much, how it ended, and what can be done. */
export function ReplySide({ message, reply, tokens, isLast, isInspected, isBeside, limit, actions }: SideProps) {
  const { model, firstTextMs, totalMs, trace, attempts, rounds, failures, insteadOf, hand, imported, summary } =
    message.facts;
  const takes = message.siblings.length > 1 && (
    <Siblings
      what="take"
      of={message.siblings}
      shown={message.id}
      turn={message.turn}
      isBeside={isBeside}
      onShow={actions.show}
      onBeside={() => actions.beside(message.id)}
    />
  );
  if (hand)
    return (
      <>
        <div>{madeBy(message.facts)}</div>
        {takes}
      </>
    );
  if (isUnderWay(reply.state))
    return (
      <>
        {takes}
        <ArrivingSide
          key={String(reply.pieces.length === 0)}
          message={message}
          isWaiting={reply.pieces.length === 0}
          tokens={tokens}
          onStop={actions.stop}
        />
      </>
    );
  const times = [
    firstTextMs !== undefined && `${(firstTextMs / 1000).toFixed(2)} s to text`,
    totalMs !== undefined && `${(totalMs / 1000).toFixed(1)} s`,
  ];
  const costs = [message.reported !== null && many(message.reported, "token"), reply.usage && cost(reply.usage)];
  return (
    <>
      <div>{madeBy(message.facts)}</div>
      {takes}
      <div>{times.filter(Boolean).join(" · ")}</div>
      <div>{costs.filter(Boolean).join(" · ")}</div>
      {summary !== undefined && <div>{summary > 0 ? `with a summary to turn ${summary}` : "without a summary"}</div>}
      <Ending state={reply.state} />
      {insteadOf && (
        <div className={styles.caution}>
          instead of {insteadOf.model}: {wordFor(failures?.at(-1)?.problem.kind ?? "internal")}
        </div>
      )}
      {!insteadOf && attempts !== undefined && <div className={styles.caution}>after {attempts} attempts</div>}
      {rounds !== undefined && <div>{many(rounds, "round")} of tools</div>}
      {isLast && canGoOn(reply.state) && (
        <div className={styles.links}>
          <button type="button" className="link" onClick={() => actions.goOn(message.id)}>
            go on
          </button>
          {reply.state === "cut" && limit !== undefined && (
            <button type="button" className="link" onClick={actions.raiseLimit}>
              raise the limit to {count(limit * 2)}
            </button>
          )}
        </div>
      )}
      {!imported && (
        <button
          type="button"
          className={styles.inspect}
          aria-label={`Dispatch of the reply by ${model}`}
          aria-expanded={isInspected}
          onClick={() => actions.inspect(message.id)}
        >
          {trace && <Trace parts={trace} />}
          <span>dispatch</span>
        </button>
      )}
    </>
  );
}

function Ending({ state }: { state: Reply["state"] }) {
  if (state === "complete") return null;
  const tone = state === "interrupted" || state === "failed" ? styles.bad : styles.caution;
  return <div className={tone}>{wordsOfState(state)}</div>;
}

function ArrivingSide({
  message,
  isWaiting,
  tokens,
  onStop,
}: {
  message: AppMessage;
  isWaiting: boolean;
  tokens: number;
  onStop: (reply: string) => void;
}) {
  const [now, setNow] = useState(() => performance.now());
  const [began] = useState(now);
  useEffect(() => {
    const timer = setInterval(() => setNow(performance.now()), 500);
    return () => clearInterval(timer);
  }, []);
  const seconds = (now - began) / 1000;
  return (
    <>
      <div>{madeBy(message.facts)}</div>
      <div>{isWaiting || seconds < 1 ? "arriving" : `arriving · ${Math.round(tokens / seconds)} tokens a second`}</div>
      <button type="button" className="link" onClick={() => onStop(message.id)}>
        stop
      </button>{" "}
      (Esc)
    </>
  );
}

/** A reply's text over time, as bars. */
function Trace({ parts }: { parts: number[] }) {
  const most = Math.max(...parts, 1);
  return (
    <div className={styles.trace} role="img" aria-label="How its text arrived over time">
      {parts.map((part, at) => (
        <i key={at} style={{ height: Math.round((part / most) * 14) }} />
      ))}
    </div>
  );
}
