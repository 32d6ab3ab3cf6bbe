import { memo, useRef } from "react";
import { holdsSomething, rowsOf, type ToolPiece, textOf } from "@/core/conversation/pieces";
import { titleOf } from "@/core/problem/problem";
import { isUnderWay, type Reply } from "@/core/reply/reply";
import type { Cited } from "@/core/sources/found";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { sharesOf } from "@/core/tokens/shares";
import { Action } from "../../shared/Action";
import { drawn } from "../../shared/drawn";
import { count } from "../../shared/format";
import { PlainText } from "../../shared/markdown/PlainText";
import { ProblemNote } from "../../shared/ProblemNote";
import { ProviderName } from "../../shared/ProviderName";
import { readReplyOf } from "../../shared/read-reply";
import { CitingPieces } from "../../shared/sheet/CitingPieces";
import { RowsBefore } from "../../shared/sheet/RowsBefore";
import { SheetRow, Who } from "../../shared/sheet/SheetRow";
import { BranchSentence } from "../../shared/sheet/Siblings";
import styles from "../../shared/sheet/sheet.module.css";
import { sameMembers, useStored } from "../../shared/store";
import { useLiveReply } from "../../shared/use-live-reply";
import type { AppMessage } from "../conversation/conversation";
import { useRowScene } from "../scene";
import { CallActs } from "./CallActs";
import { EditText } from "./EditText";
import { FaultSentence } from "./FaultSentence";
import { Figures } from "./Figures";
import type { RowFate } from "./fate";
import { ProviderLink } from "./ProviderLink";
import { ReplySide } from "./ReplySide";
import { TakesSentence } from "./TakesSentence";
import { whichOf } from "./which";

/** A reply, in whatever state it is; the calls of tools that it took stand in rows above it. */
export const ReplyRow = memo(function ReplyRow({ message, fate }: { message: AppMessage; fate: RowFate }) {
  drawn(`row ${message.id}`);
  const { app, conversation, acts, hasFigures, openDocument } = useRowScene();
  const {
    id,
    turn,
    parent,
    facts: { imported },
  } = message;
  const unfolded = useStored(conversation, (state) =>
    state.unfolded?.message === id ? state.unfolded.what : undefined,
  );
  const reply = useLiveReply(readReplyOf(message));
  const isArriving = isUnderWay(reply.state);
  const text = textOf(reply);
  const { before, last } = rowsOf(reply);
  const hasPieces = holdsSomething({ pieces: last });
  const arrived = useEstimate(isArriving ? textOf({ pieces: last }) : "");
  // of what is arriving its words alone are counted, as they come
  const shares = isArriving ? [] : sharesOf(fate.tokens, [...before.map((row) => [row].flat()), last]);
  const tokens = isArriving ? arrived : (shares.at(-1) ?? 0);
  const { carried, isNewest, isEnd } = fate;
  const bracket = { carried, newest: isNewest, first: false, last: false };
  const citing = {
    cites: message.facts.cites ?? reply.cites,
    strayMarks: message.facts.strayMarks,
    onOpenDocument: ({ source, title, version }: Cited, stretch: { from: number; to: number }) =>
      openDocument({ source, title, version, ...stretch }),
  };
  return (
    <>
      <RowsBefore
        rows={before}
        {...{ app, turn, citing }}
        tokens={shares}
        bracket={{ ...bracket, first: fate.first }}
        sideOf={(piece) => !isArriving && !imported && <OpensDispatch of={id} tool={piece} />}
        actsOf={(piece) =>
          isArriving && piece.outcome === "waiting" && piece.waitsFor && <CallActs reply={id} piece={piece} />
        }
      />
      <SheetRow
        tone="app"
        tokens={hasPieces ? count(tokens) : undefined}
        bracket={{ ...bracket, first: fate.first && before.length === 0, last: fate.last }}
        label={`Turn ${turn}, reply, ${reply.state}${whichOf("take", message)}`}
        figures={hasFigures && !isArriving && <Figures sent={message.facts.sent} usage={reply.usage} text={text} />}
        side={<ReplySide {...{ message, reply, tokens }} isLast={isEnd} unfolded={unfolded} />}
        showsActions={isEnd}
        actions={
          unfolded !== "takes" &&
          unfolded !== "correction" &&
          unfolded !== "fault" && <ReplyActions message={message} isArriving={isArriving} />
        }
      >
        {unfolded === "correction" ? (
          <EditText
            name={`correct ${id}`}
            label={`Reply of turn ${turn}, corrected`}
            text={text}
            does="Keep as another take"
            onDone={(corrected) => acts.write(parent ?? "", corrected, id)}
            onClose={conversation.fold}
          />
        ) : (
          (hasPieces || isArriving) && (
            <div className={styles.reply}>
              <Who>{app}</Who>
              <CitingPieces pieces={last} isArriving={isArriving} {...citing} />
              {isArriving && !isSaying(reply) && <Waiting reply={reply} />}
            </div>
          )
        )}
        {reply.thought !== "" && <Thought text={reply.thought} open={isArriving && text === ""} />}
        {reply.problem && reply.problem.kind !== "interrupted" && (
          <ProblemNote problem={reply.problem}>
            <Action onClick={() => acts.again(parent ?? "")}>ask again</Action>{" "}
            <ProviderLink kind={reply.problem.kind} provider={message.facts.provider} conversation={conversation.id} />
          </ProblemNote>
        )}
        {!isArriving && !holdsSomething(reply) && !reply.problem && (
          <span className={styles.waiting}>
            Nothing had come when it {reply.state === "stopped" ? "was stopped" : "ended"}.
          </span>
        )}
        {unfolded === "fault" && <FaultSentence reply={id} name={`fault ${id}`} onClose={conversation.fold} />}
        {unfolded === "takes" && (
          <TakesSentence
            name={`takes ${id}`}
            onAsk={(wanted) => void acts.again(parent ?? "", wanted)}
            onClose={conversation.fold}
          />
        )}
      </SheetRow>
    </>
  );
});

function OpensDispatch({ of, tool }: { of: string; tool: ToolPiece }) {
  const { conversation } = useRowScene();
  return (
    <Action aria-label={`Dispatch, with ${tool.name}`} onClick={() => conversation.unfold(of, "dispatch")}>
      dispatch
    </Action>
  );
}

function ReplyActions({ message, isArriving }: { message: AppMessage; isArriving: boolean }) {
  const { conversation, draft, acts, makeCheck } = useRowScene();
  const { id, siblings, clearedFor } = message;
  // the model that is to answer, where it remembers only its own
  const apart = useStored(
    draft,
    ({ content: { memory, provider, model } }) => (memory.apart ? { provider, model } : undefined),
    (a, b) => a === b || (a !== undefined && b !== undefined && sameMembers(a, b)),
  );
  return (
    <>
      <Action data-focus={`takes ${id}`} onClick={() => conversation.unfold(id, "takes")}>
        another take
      </Action>
      {!isArriving && (
        <>
          <Action data-focus={`correct ${id}`} onClick={() => conversation.unfold(id, "correction")}>
            correct
          </Action>
          <Action onClick={() => makeCheck(id)}>make a check</Action>
          {message.facts.passages && (
            <Action data-focus={`fault ${id}`} onClick={() => conversation.unfold(id, "fault")}>
              it should have answered from…
            </Action>
          )}
          {!clearedFor.includes(null) && (
            <Action data-focus={`clear ${id}`} onClick={() => acts.clear(id, true, null)}>
              clear below
            </Action>
          )}
          {apart && clearedFor.length === 0 && (
            <Action onClick={() => acts.clear(id, true, apart)}>clear below for {apart.model} alone</Action>
          )}
        </>
      )}
      {siblings.length > 1 && (
        <BranchSentence
          what="take"
          name={siblings.find((each) => each.id === id)?.name ?? null}
          onName={(name) => acts.name(id, name)}
          onRemove={() => acts.remove(id)}
        />
      )}
    </>
  );
}

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
  if (pieces.at(-1)?.kind === "tool") {
    const open = pieces.find((piece) => piece.kind === "tool" && piece.outcome === "waiting");
    return (
      <span className={styles.waiting}>
        {open?.kind === "tool" ? `waiting for ${open.name}` : "waiting for what the model makes of it"}
      </span>
    );
  }
  return <span className={styles.waiting}>{thought === "" ? "waiting for the first text" : "thinking"}</span>;
}
