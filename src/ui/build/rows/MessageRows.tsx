import { memo, useEffect, useRef, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import { textOf } from "@/core/conversation/pieces";
import { titleOf, wordFor } from "@/core/problem/problem";
import { canGoOn, isUnderWay, type Reply } from "@/core/reply/reply";
import { countsOf, rawTokens } from "@/core/tokens/counts";
import { wordsOfState } from "../../shared/endings";
import { count, many, price } from "../../shared/format";
import { Markdown, PlainText } from "../../shared/markdown/Markdown";
import { ProblemNote } from "../../shared/ProblemNote";
import { useLiveReply } from "../../shared/use-live-reply";
import { readReplyOf } from "../read-reply";
import { type Bracket, Row } from "./Row";
import styles from "./Row.module.css";

type AppMessage = Extract<LineMessage, { role: "app" }>;

/** What can be done about a reply from its row. */
export interface ReplyActions {
  stop: (reply: string) => void;
  goOn: (reply: string) => void;
  /** Sends the visitor's message of a turn that failed once more. */
  again: (text: string) => void;
  /** Opens the dispatches of a reply. */
  inspect: (reply: string) => void;
  /** Doubles the output limit of the draft. */
  raiseLimit: () => void;
}

/** A visitor's message. */
export const VisitorRow = memo(function VisitorRow({
  message,
  tokens,
  why,
  ...bracket
}: Bracket & {
  message: LineMessage;
  tokens: number;
  why?: string;
}) {
  const { turn } = message;
  return (
    <Row tone="visitor" turn={String(turn)} tokens={count(tokens)} {...bracket} label={`Turn ${turn}, visitor`}>
      <span className={styles.who}>Visitor</span>
      <PlainText text={textOf(message)} />
      {why && <span className={styles.why}>{why}</span>}
    </Row>
  );
});

/** A reply, in whatever state it is. */
export const ReplyRow = memo(function ReplyRow({
  message,
  tokens: reached,
  asked,
  app,
  isLast,
  isInspected,
  limit,
  actions,
  ...bracket
}: Bracket & {
  message: AppMessage;
  /** Of the row, once it has ended. */
  tokens: number;
  /** The visitor's words that it answers. */
  asked: string;
  app: string;
  isLast: boolean;
  /** Whether its dispatches are unfolded under it. */
  isInspected: boolean;
  /** The output limit of the draft. */
  limit: number | undefined;
  actions: ReplyActions;
}) {
  const reply = useLiveReply(readReplyOf(message));
  const isArriving = isUnderWay(reply.state);
  const text = textOf(reply);
  const arrived = useEstimate(isArriving ? text : "");
  const tokens = isArriving ? arrived : reached;
  return (
    <Row
      tone="app"
      tokens={text === "" ? undefined : count(tokens)}
      {...bracket}
      label={`Turn ${message.turn}, reply, ${reply.state}`}
      side={<Side {...{ message, reply, tokens, isLast, isInspected, limit, actions }} />}
    >
      {(text !== "" || isArriving) && (
        <div className={styles.reply}>
          <span className={styles.who}>{app}</span>
          {text === "" ? <Waiting reply={reply} /> : <Markdown text={text} arriving={isArriving} />}
        </div>
      )}
      {reply.thought !== "" && <Thought text={reply.thought} open={isArriving && text === ""} />}
      {reply.problem && reply.problem.kind !== "interrupted" && (
        <ProblemNote problem={reply.problem}>
          <button type="button" className="link" onClick={() => actions.again(asked)}>
            send it again
          </button>
        </ProblemNote>
      )}
      {!isArriving && text === "" && !reply.problem && (
        <span className={styles.waiting}>
          Nothing had come when it {reply.state === "stopped" ? "was stopped" : "ended"}.
        </span>
      )}
    </Row>
  );
});

/** The estimated tokens of a text that grows: only what was added is looked at. */
function useEstimate(text: string): number {
  const known = useRef({ length: 0, tokens: 0 });
  if (text.length < known.current.length) known.current = { length: 0, tokens: 0 };
  const { length, tokens } = known.current;
  if (text.length > length)
    known.current = { length: text.length, tokens: tokens + rawTokens(countsOf(text.slice(length))) };
  return known.current.tokens;
}

function Thought({ text, open }: { text: string; open: boolean }) {
  return (
    <details className={styles.thought} open={open}>
      <summary>what it thought</summary>
      <PlainText text={text} />
    </details>
  );
}

/** What stands in a row until the first text comes; says so only once it takes long enough to wonder. */
function Waiting({ reply: { thought, next } }: { reply: Reply }) {
  if (next)
    return (
      <span className={styles.waiting} role="status">
        {titleOf(next.because.kind)}.{" "}
        {next.after > 0
          ? `Waiting ${next.after} s, then attempt ${next.attempt} with ${next.model}.`
          : `Attempt ${next.attempt} goes to ${next.model} on ${next.provider}.`}
      </span>
    );
  return <span className={styles.waiting}>{thought === "" ? "waiting for the first text" : "thinking"}</span>;
}

interface SideProps {
  message: AppMessage;
  reply: Reply;
  tokens: number;
  isLast: boolean;
  isInspected: boolean;
  limit: number | undefined;
  actions: ReplyActions;
}

/** What is known of a reply: who made it, how fast, for how much, how it ended, and what can be done. */
function Side({ message, reply, tokens, isLast, isInspected, limit, actions }: SideProps) {
  const { revision, model, firstTextMs, totalMs, trace, attempts, failures, insteadOf } = message.facts;
  if (isUnderWay(reply.state))
    return (
      <ArrivingSide
        key={String(reply.pieces.length === 0)}
        message={message}
        isWaiting={reply.pieces.length === 0}
        tokens={tokens}
        onStop={actions.stop}
      />
    );
  const times = [
    firstTextMs !== undefined && `${(firstTextMs / 1000).toFixed(2)} s to text`,
    totalMs !== undefined && `${(totalMs / 1000).toFixed(1)} s`,
  ];
  const costs = [
    message.reported !== null && many(message.reported, "token"),
    reply.usage && price(reply.usage.price, reply.usage.currency),
  ];
  return (
    <>
      <div>
        revision {revision} · {model}
      </div>
      <div>{times.filter(Boolean).join(" · ")}</div>
      <div>{costs.filter(Boolean).join(" · ")}</div>
      <Ending state={reply.state} />
      {insteadOf && (
        <div className={styles.caution}>
          instead of {insteadOf.model}: {wordFor(failures?.at(-1)?.problem.kind ?? "internal")}
        </div>
      )}
      {!insteadOf && attempts !== undefined && <div className={styles.caution}>after {attempts} attempts</div>}
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
      <div>
        revision {message.facts.revision} · {message.facts.model}
      </div>
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
