import { memo, useEffect, useRef, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import { textOf } from "@/core/conversation/pieces";
import { titleOf, wordFor } from "@/core/problem/problem";
import { canGoOn, isUnderWay, type Reply } from "@/core/reply/reply";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { wordsOfState } from "../../shared/endings";
import { count, many, price } from "../../shared/format";
import { Markdown, PlainText } from "../../shared/markdown/Markdown";
import { ProblemNote } from "../../shared/ProblemNote";
import { useLiveReply } from "../../shared/use-live-reply";
import { readReplyOf } from "../read-reply";
import { EditText } from "./EditText";
import { Figures } from "./Figures";
import { type Bracket, Row } from "./Row";
import styles from "./Row.module.css";
import { BranchWords, Siblings } from "./Siblings";
import { TakeWords, type WantedTakes } from "./TakeWords";

type AppMessage = Extract<LineMessage, { role: "app" }>;

/** What can be done about a message from its row. */
export interface RowActions {
  stop: (reply: string) => void;
  goOn: (reply: string) => void;
  /** Asks for further takes of the reply to a visitor's message. */
  again: (message: string, wanted?: WantedTakes) => void;
  /** Says something else in the place of a visitor's message; gives whether it was taken. */
  change: (message: LineMessage, text: string) => Promise<boolean>;
  /** Adds a take by hand. */
  write: (message: string, text: string, corrects: string) => Promise<boolean>;
  show: (message: string) => void;
  name: (message: string, name: string | null) => void;
  remove: (message: string) => void;
  /** Draws a line below a reply, or takes it away. */
  clear: (reply: string, isClear?: boolean) => void;
  /** Carries a turn wherever it stands, or no more. */
  pin: (message: string, isPin: boolean) => void;
  /** Opens what can be chosen in the place of a message side by side. */
  beside: (message: string) => void;
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
  isBeside,
  actions,
  ...bracket
}: Bracket & {
  message: LineMessage;
  tokens: number;
  why?: string;
  isBeside: boolean;
  actions: RowActions;
}) {
  const { id, turn, siblings } = message;
  const [isEdited, setEdited] = useState(false);
  const text = textOf(message);
  return (
    <Row
      tone="visitor"
      turn={String(turn)}
      tokens={count(tokens)}
      {...bracket}
      label={`Turn ${turn}, visitor${whichOf("line", message)}`}
      side={
        <>
          {message.isPinned && <div>pinned</div>}
          {siblings.length > 1 && (
            <Siblings
              what="line"
              of={siblings}
              shown={id}
              {...{ turn, isBeside }}
              onShow={actions.show}
              onBeside={() => actions.beside(id)}
            />
          )}
        </>
      }
    >
      <span className={styles.who}>Visitor</span>
      {isEdited ? (
        <EditText
          label={`Turn ${turn}, said in another way`}
          text={text}
          does="Send as another line"
          onDone={(changed) => actions.change(message, changed)}
          onCancel={() => setEdited(false)}
        />
      ) : (
        <PlainText text={text} />
      )}
      {why && <span className={styles.why}>{why}</span>}
      {!isEdited && (
        <div className={styles.actions}>
          <button type="button" className="link" onClick={() => setEdited(true)}>
            change
          </button>
          <button type="button" className="link" onClick={() => actions.pin(id, !message.isPinned)}>
            {message.isPinned ? "unpin" : "pin"}
          </button>
          {siblings.length > 1 && <WordsOfBranch what="line" message={message} actions={actions} />}
        </div>
      )}
    </Row>
  );
});

/** Which of several a message is, for those who hear it. */
function whichOf(what: "take" | "line", { id, siblings }: LineMessage): string {
  if (siblings.length < 2) return "";
  return `, ${what} ${siblings.findIndex((each) => each.id === id) + 1} of ${siblings.length}`;
}

function WordsOfBranch({
  what,
  message: { id, siblings },
  actions,
}: {
  what: "take" | "line";
  message: LineMessage;
  actions: RowActions;
}) {
  return (
    <BranchWords
      what={what}
      name={siblings.find((each) => each.id === id)?.name ?? null}
      onName={(name) => actions.name(id, name)}
      onRemove={() => actions.remove(id)}
    />
  );
}

/** A reply, in whatever state it is. */
export const ReplyRow = memo(function ReplyRow({
  message,
  tokens: reached,
  app,
  isLast,
  isInspected,
  isBeside,
  limit,
  hasFigures,
  providers,
  actions,
  ...bracket
}: Bracket & {
  message: AppMessage;
  /** Of the row, once it has ended. */
  tokens: number;
  providers: Provider[];
  app: string;
  isLast: boolean;
  /** Whether its dispatches are unfolded under it. */
  isInspected: boolean;
  isBeside: boolean;
  /** The output limit of the draft. */
  limit: number | undefined;
  /** Whether the column of figures is shown. */
  hasFigures: boolean;
  actions: RowActions;
}) {
  const [opened, setOpened] = useState<"takes" | "correction">();
  const close = () => setOpened(undefined);
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
      label={`Turn ${message.turn}, reply, ${reply.state}${whichOf("take", message)}`}
      figures={hasFigures && !isArriving && <Figures sent={message.facts.sent} usage={reply.usage} text={text} />}
      side={<Side {...{ message, reply, tokens, isLast, isInspected, isBeside, limit, actions }} />}
    >
      {opened === "correction" ? (
        <EditText
          label={`Reply of turn ${message.turn}, put right`}
          text={text}
          does="Keep as another take"
          onDone={(corrected) => actions.write(message.parent ?? "", corrected, message.id)}
          onCancel={close}
        />
      ) : (
        (text !== "" || isArriving) && (
          <div className={styles.reply}>
            <span className={styles.who}>{app}</span>
            {text === "" ? <Waiting reply={reply} /> : <Markdown text={text} arriving={isArriving} />}
          </div>
        )
      )}
      {reply.thought !== "" && <Thought text={reply.thought} open={isArriving && text === ""} />}
      {reply.problem && reply.problem.kind !== "interrupted" && (
        <ProblemNote problem={reply.problem}>
          <button type="button" className="link" onClick={() => actions.again(message.parent ?? "")}>
            ask again
          </button>
        </ProblemNote>
      )}
      {!isArriving && text === "" && !reply.problem && (
        <span className={styles.waiting}>
          Nothing had come when it {reply.state === "stopped" ? "was stopped" : "ended"}.
        </span>
      )}
      {opened === "takes" && (
        <TakeWords
          providers={providers}
          onAsk={(wanted) => actions.again(message.parent ?? "", wanted)}
          onCancel={close}
        />
      )}
      {!opened && (
        <div className={styles.actions} data-stays={isLast}>
          <button type="button" className="link" onClick={() => setOpened("takes")}>
            another take
          </button>
          {!isArriving && (
            <>
              <button type="button" className="link" onClick={() => setOpened("correction")}>
                correct
              </button>
              {!message.isCleared && (
                <button type="button" className="link" onClick={() => actions.clear(message.id)}>
                  clear below
                </button>
              )}
            </>
          )}
          {message.siblings.length > 1 && <WordsOfBranch what="take" message={message} actions={actions} />}
        </div>
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
  isBeside: boolean;
  actions: RowActions;
}

/** What is known of a reply: who made it, how fast, for how much, how it ended, and what can be done. */
function Side({ message, reply, tokens, isLast, isInspected, isBeside, limit, actions }: SideProps) {
  const { revision, model, firstTextMs, totalMs, trace, attempts, failures, insteadOf, hand } = message.facts;
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
        <div>{hand} by hand</div>
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
  const costs = [
    message.reported !== null && many(message.reported, "token"),
    reply.usage && price(reply.usage.price, reply.usage.currency),
  ];
  return (
    <>
      <div>
        revision {revision} · {model}
      </div>
      {takes}
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
