import dynamic from "next/dynamic";
import { memo, useState } from "react";
import type { Utterance } from "@/contract/duets";
import { holdsSomething } from "@/core/conversation/pieces";
import { isUnderWay, type Reply } from "@/core/reply/reply";
import { Action } from "../../shared/Action";
import { cost, count } from "../../shared/format";
import { Pieces } from "../../shared/markdown/Pieces";
import { ProblemNote } from "../../shared/ProblemNote";
import { readReplyOf } from "../../shared/read-reply";
import { SheetRow } from "../../shared/sheet/SheetRow";
import sheet from "../../shared/sheet/sheet.module.css";
import { useLiveReply } from "../../shared/use-live-reply";
import { wordsOfState } from "../../shared/wording/endings";
import styles from "../Compare.module.css";

const DispatchSheet = dynamic(() => import("../../dispatch/DispatchSheet"), { ssr: false });

interface Props {
  utterance: Utterance;
  /** Its number within the duet's rounds; nothing where the other one spoke first in it. */
  round: string | undefined;
  /** Who speaks, and who that is. */
  name: string;
  about: string;
}

/** What one of the two says, as it comes; before it the words that were put in. */
export const UtteranceRow = memo(function UtteranceRow({ utterance, round, name, about }: Props) {
  const { number, side, reply, words } = utterance;
  return (
    <>
      {words.map((word, at) => (
        <WordRow key={`${at} ${word}`} to={name} text={word} />
      ))}
      {reply ? (
        <SaidRow {...{ number, side, reply, round, name, about }} />
      ) : (
        <SheetRow tone="app" turn={round} label={`Utterance ${number}, ${name}, deleted`}>
          <span className={sheet.waiting}>what was said here is deleted</span>
        </SheetRow>
      )}
    </>
  );
});

function SaidRow({
  number,
  side,
  reply: stored,
  round,
  name,
  about,
}: Omit<Props, "utterance"> & Pick<Utterance, "number" | "side"> & { reply: NonNullable<Utterance["reply"]> }) {
  const reply = useLiveReply(readReplyOf(stored));
  const [isOpen, setOpen] = useState(false);
  const isArriving = isUnderWay(reply.state);
  const isWritten = stored.facts.hand === "written";
  return (
    <>
      <SheetRow
        tone={side === 0 ? "app" : "visitor"}
        turn={round}
        tokens={reply.usage ? count(reply.usage.output) : undefined}
        label={`Utterance ${number}, ${name}, ${reply.state}`}
        side={isWritten ? "written as the opening line" : <Took reply={reply} />}
        actions={
          !isWritten && (
            <Action aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
              dispatch
            </Action>
          )
        }
      >
        <div className={styles.head}>
          <b>{name}</b> <span>{about}</span>
        </div>
        {holdsSomething(reply) ? (
          <Pieces pieces={reply.pieces} by="app" isArriving={isArriving} />
        ) : (
          isArriving && <span className={sheet.waiting}>waiting for the first text</span>
        )}
        {reply.problem && <ProblemNote problem={reply.problem} />}
      </SheetRow>
      {isOpen && <DispatchSheet of={stored.id} onFold={() => setOpen(false)} />}
    </>
  );
}

function Took({ reply: { state, usage } }: { reply: Reply }) {
  if (isUnderWay(state)) return state === "waiting" ? "waiting" : "arriving";
  return (
    <>
      {state !== "complete" && <div>{wordsOfState(state)}</div>}
      {usage && (
        <div>
          {count(usage.input)} in, {count(usage.output)} out · {cost(usage)}
        </div>
      )}
    </>
  );
}

/** A word that was put in, or that waits to be told. */
export function WordRow({ to, text, waits = false }: { to: string; text: string; waits?: boolean }) {
  return (
    <SheetRow tone="prompt" label={`A word to ${to}`}>
      <span className={sheet.waiting}>
        {waits ? "told next to" : "to"} {to}:
      </span>{" "}
      {text}
    </SheetRow>
  );
}
