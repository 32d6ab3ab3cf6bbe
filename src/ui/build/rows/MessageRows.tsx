import { memo, useRef, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import { holdsSomething, textOf } from "@/core/conversation/pieces";
import { titleOf } from "@/core/problem/problem";
import type { Candidate } from "@/core/reply/events";
import { isUnderWay, type Reply } from "@/core/reply/reply";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { count } from "../../shared/format";
import { Markdown, PlainText } from "../../shared/markdown/Markdown";
import { ProblemNote } from "../../shared/ProblemNote";
import { ProviderName } from "../../shared/ProviderName";
import { Pieces } from "../../shared/pieces/Pieces";
import { useLiveReply } from "../../shared/use-live-reply";
import { readReplyOf } from "../read-reply";
import { EditText } from "./EditText";
import { Figures } from "./Figures";
import { ProviderLink } from "./ProviderLink";
import { ReplySide } from "./ReplySide";
import { type Bracket, Row } from "./Row";
import styles from "./Row.module.css";
import type { RowActions } from "./row-actions";
import { BranchWords, Siblings } from "./Siblings";
import { TakeWords } from "./TakeWords";

type AppMessage = Extract<LineMessage, { role: "app" }>;

/** A visitor's message. */
export const VisitorRow = memo(function VisitorRow({
  message,
  tokens,
  why,
  isUnanswered,
  isBeside,
  actions,
  ...bracket
}: Bracket & {
  message: LineMessage;
  tokens: number;
  why?: string;
  /** Whether its turn has no answer, and can be asked again. */
  isUnanswered: boolean;
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
        <Pieces pieces={message.pieces} text={(words) => <PlainText text={words} />} />
      )}
      {why && (
        <span className={styles.why}>
          {why}
          {isUnanswered && (
            <>
              {" "}
              <button type="button" className="link" onClick={() => actions.again(id)}>
                ask again
              </button>
            </>
          )}
        </span>
      )}
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
  apart,
  hasFigures,
  providers,
  conversation,
  actions,
  ...bracket
}: Bracket & {
  message: AppMessage;
  conversation: string | undefined;
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
  /** The model that is to answer, where it remembers only its own. */
  apart: Candidate | undefined;
  /** Whether the column of figures is shown. */
  hasFigures: boolean;
  actions: RowActions;
}) {
  const [opened, setOpened] = useState<"takes" | "correction">();
  const close = () => setOpened(undefined);
  const reply = useLiveReply(readReplyOf(message));
  const isArriving = isUnderWay(reply.state);
  const text = textOf(reply);
  const hasPieces = holdsSomething(reply);
  const arrived = useEstimate(isArriving ? text : "");
  const tokens = isArriving ? arrived : reached;
  return (
    <Row
      tone="app"
      tokens={hasPieces ? count(tokens) : undefined}
      {...bracket}
      label={`Turn ${message.turn}, reply, ${reply.state}${whichOf("take", message)}`}
      figures={hasFigures && !isArriving && <Figures sent={message.facts.sent} usage={reply.usage} text={text} />}
      side={<ReplySide {...{ message, reply, tokens, isLast, isInspected, isBeside, limit, actions }} />}
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
        (hasPieces || isArriving) && (
          <div className={styles.reply}>
            <span className={styles.who}>{app}</span>
            <Pieces
              pieces={reply.pieces}
              isArriving={isArriving}
              text={(words, more) => <Markdown text={words} arriving={more} />}
            />
            {isArriving && !isSaying(reply) && <Waiting reply={reply} />}
          </div>
        )
      )}
      {reply.thought !== "" && <Thought text={reply.thought} open={isArriving && text === ""} />}
      {reply.problem && reply.problem.kind !== "interrupted" && (
        <ProblemNote problem={reply.problem}>
          <button type="button" className="link" onClick={() => actions.again(message.parent ?? "")}>
            ask again
          </button>{" "}
          <ProviderLink kind={reply.problem.kind} provider={message.facts.provider} conversation={conversation} />
        </ProblemNote>
      )}
      {!isArriving && !hasPieces && !reply.problem && (
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
              {!message.clearedFor.includes(null) && (
                <button type="button" className="link" onClick={() => actions.clear(message.id, true, null)}>
                  clear below
                </button>
              )}
              {apart && message.clearedFor.length === 0 && (
                <button type="button" className="link" onClick={() => actions.clear(message.id, true, apart)}>
                  clear below for {apart.model} alone
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

/** Whether the words of a reply are arriving: not where nothing came yet, nor after the answer of a tool. */
function isSaying({ pieces }: Reply): boolean {
  return pieces.at(-1)?.kind === "text";
}

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
function Waiting({ reply: { thought, next, pieces } }: { reply: Reply }) {
  if (next)
    return (
      <span className={styles.waiting} role="status">
        {titleOf(next.because.kind)}.{" "}
        {next.after > 0 ? (
          `Waiting ${next.after} s, then attempt ${next.attempt} with ${next.model}.`
        ) : (
          <>
            Attempt {next.attempt} goes to {next.model} on <ProviderName of={next.provider} />.
          </>
        )}
      </span>
    );
  const last = pieces.at(-1);
  if (last?.kind === "tool")
    return (
      <span className={styles.waiting} role="status">
        {last.outcome === "waiting" ? `waiting for ${last.name}` : "waiting for what the model makes of it"}
      </span>
    );
  return <span className={styles.waiting}>{thought === "" ? "waiting for the first text" : "thinking"}</span>;
}
