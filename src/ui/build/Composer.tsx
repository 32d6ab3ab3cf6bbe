import { Button, Input } from "antd";
import { type ReactNode, type Ref, useEffect, useImperativeHandle, useMemo, useRef, useState } from "react";
import { type Forecast, withTyped } from "@/core/context/forecast";
import type { Lead } from "@/core/context/lead";
import { type Mend, mendsOf } from "@/core/context/mends";
import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { dearestOf, type Prices } from "@/core/tokens/price";
import { count, price } from "../shared/format";
import { LedgerAhead } from "../shared/ledger/LedgerAhead";
import { WindowBar } from "../shared/ledger/WindowBar";
import { ProblemNote } from "../shared/ProblemNote";
import styles from "./Composer.module.css";
import { keepSent, sentTexts } from "./sent-texts";
import { keptTexts, useKeptText } from "./use-kept-text";

/** What others may do with the composer. */
export interface ComposerHandle {
  focus(): void;
}

interface Props {
  /** Under what name the words are kept until they are sent. */
  name: string;
  /** Under what name it is kept what was sent, to be recalled. */
  sentName: string;
  content: Content;
  ahead: Forecast;
  /** Of those who may answer. */
  prices: readonly Prices[];
  /** What the conversation came to so far; nothing where it is not known. */
  spent: { amount: number; currency: string } | undefined;
  /** Is told what would be sent, with what is typed. */
  onReach: (reach: Forecast) => void;
  /** Changes the draft so that what is too long fits. */
  onMend: (change: Partial<Content>) => void;
  /** What stands for the beginning of what the same model was sent last. */
  before: Lead | undefined;
  /** The beginning of a message of the conversation that was read. */
  excerptOf: (message: string) => string | undefined;
  isArriving: boolean;
  /** Whether what is written goes out when the reply that arrives has ended. */
  waits: boolean;
  onWait: (waits: boolean) => void;
  /** Sends, and says whether it was taken; if not, the words are kept. */
  onSend: (text: string) => Promise<boolean>;
  onStop: () => void;
  onNew: (() => void) | undefined;
  onAgain: (() => void) | undefined;
  failure: Problem | undefined;
  /** What else has to be said above it. */
  children?: ReactNode;
  ref: Ref<ComposerHandle>;
}

/**
 * Where the next message is written: it stays open while a reply arrives, sends one at a time,
 * keeps what was typed across a reload, and says what sending would cost.
 */
export function Composer({
  name,
  sentName,
  content,
  ahead,
  prices,
  spent,
  onReach,
  onMend,
  before,
  excerptOf,
  isArriving,
  waits,
  onWait,
  onSend,
  onStop,
  onNew,
  onAgain,
  failure,
  children,
  ref,
}: Props) {
  const area = useRef<{ focus: () => void }>(null);
  const text = useKeptText(name);
  const setText = (text: string) => keptTexts.write(name, text);
  const [showsLedger, setShowsLedger] = useState(false);
  const [isSending, setSending] = useState(false);
  /** How many messages back the text was recalled from; 0 where it was not. */
  const [back, setBack] = useState(0);
  useImperativeHandle(ref, () => ({ focus: () => area.current?.focus() }));

  const all = useMemo(() => withTyped(ahead, text), [ahead, text]);
  useEffect(() => onReach(all), [onReach, all]);
  const { tokens, margin, problem } = all;
  const { window } = ahead.room;
  const mends = useMemo(() => mendsOf(all, content), [all, content]);
  const canSend = text.trim() !== "" && !problem && !isSending;

  const send = async () => {
    if (!canSend) return;
    if (isArriving) return onWait(true);
    setSending(true);
    setBack(0);
    keepSent(localStorage, sentName, text);
    setText("");
    // the failure is shown above the words, which come back
    if (!(await onSend(text))) keptTexts.giveBack(name, text);
    setSending(false);
    area.current?.focus();
  };

  /** Puts what was sent before in the place of a text that is empty or was recalled. */
  const recall = (steps: number): boolean => {
    const sent = sentTexts(localStorage, sentName);
    const at = back + steps;
    if ((text !== "" && text !== sent[back - 1]) || at < 0 || at > sent.length) return false;
    setBack(at);
    setText(sent[at - 1] ?? "");
    return true;
  };

  // what waits for the reply that arrives goes out when that has ended
  const sendRef = useRef(send);
  sendRef.current = send;
  useEffect(() => {
    if (!waits || isArriving) return;
    onWait(false);
    void sendRef.current();
  }, [waits, isArriving, onWait]);

  return (
    <div className={styles.composer}>
      {children}
      {failure && <ProblemNote problem={failure} />}
      {problem && problem.kind !== "bad-request" && (
        <ProblemNote problem={problem}>
          {mends.map((mend) => (
            <button key={mend.kind} type="button" className="link" onClick={() => onMend(mend.change)}>
              {wordsOfMend(mend)}
            </button>
          ))}
        </ProblemNote>
      )}
      {showsLedger && (
        <section className={styles.ledger} aria-label="What would be sent">
          <LedgerAhead ahead={all} before={before} excerptOf={excerptOf} />
        </section>
      )}
      <div className={styles.write}>
        <Input.TextArea
          ref={area as never}
          aria-label="Message"
          variant="borderless"
          autoFocus
          autoSize={{ minRows: 1, maxRows: 8 }}
          placeholder={isArriving ? "Write the next message" : "Write as a visitor would"}
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            if (waits) onWait(false);
          }}
          onKeyDown={(event) => {
            const steps = { ArrowUp: 1, ArrowDown: -1 }[event.key] ?? 0;
            if (steps !== 0 && !event.altKey && !event.shiftKey && recall(steps)) event.preventDefault();
            if (event.key !== "Enter" || event.shiftKey || event.nativeEvent.isComposing) return;
            event.preventDefault();
            void send();
          }}
        />
        {isArriving && <Button onClick={onStop}>Stop</Button>}
        <Button type="primary" disabled={!canSend} onClick={() => void send()}>
          {waits ? "Goes next" : isArriving ? "Send next" : "Send"}
        </Button>
      </div>
      <div className={styles.cost}>
        <span>
          about <b title={`give or take ${count(margin)}`}>{count(tokens)}</b> tokens in,{" "}
          {content.settings.maxOutput === undefined ? (
            "any number"
          ) : (
            <>
              at most <b>{count(content.settings.maxOutput)}</b>
            </>
          )}{" "}
          out
        </span>
        <NextPrice input={tokens} output={content.settings.maxOutput} prices={prices} />
        {spent && spent.amount > 0 && (
          <span>
            <b>{price(spent.amount, spent.currency)}</b> so far
          </span>
        )}
        <WindowBar ahead={all} />
        <span>
          {Math.round((tokens / window) * 100)}% of {count(window)}
        </span>
        <button type="button" className="link" aria-expanded={showsLedger} onClick={() => setShowsLedger(!showsLedger)}>
          ledger
        </button>
        {onAgain && (
          <button type="button" className="link" onClick={onAgain} aria-keyshortcuts="Alt+G">
            say it again
          </button>
        )}
        {onNew && (
          <button type="button" className="link" onClick={onNew} aria-keyshortcuts="Alt+N">
            new conversation
          </button>
        )}
      </div>
    </div>
  );
}

/** What the next message comes to at the dearest of those who may answer it. */
function NextPrice({
  input,
  output,
  prices,
}: {
  input: number;
  output: number | undefined;
  prices: readonly Prices[];
}) {
  const most = dearestOf({ input, output: output ?? 0 }, prices);
  if (most === undefined) return <span>price not set</span>;
  return (
    <span>
      {output === undefined ? "from" : "at most"} <b>{price(most, prices[0]?.currency ?? "EUR")}</b>
    </span>
  );
}

function wordsOfMend(mend: Mend): string {
  switch (mend.kind) {
    case "carry-less":
      return `carry as many of the newest turns as fit ${count(mend.tokens)} tokens`;
    case "shorter-reply":
      return `keep ${count(mend.tokens)} tokens for the reply`;
  }
}
