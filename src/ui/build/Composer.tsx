import { Button, Input } from "antd";
import dynamic from "next/dynamic";
import { type ReactNode, type Ref, useEffect, useImperativeHandle, useMemo, useRef } from "react";
import { type Forecast, withTyped } from "@/core/context/forecast";
import type { Lead } from "@/core/context/lead";
import { type Mend, mendsOf } from "@/core/context/mends";
import { pictureTypes } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import { dearestOf, type Prices } from "@/core/tokens/price";
import { Action } from "../shared/Action";
import styles from "../shared/composer.module.css";
import { drawn } from "../shared/drawn";
import { count, price } from "../shared/format";
import { keyIn } from "../shared/keys/table";
import { useLayer } from "../shared/keys/use-layer";
import { WindowBar } from "../shared/ledger/WindowBar";
import { ProblemNote } from "../shared/ProblemNote";
import { HeldPictures } from "../shared/pictures/HeldPictures";
import { useAdding } from "../shared/pictures/use-adding";
import { useKeptPictures } from "../shared/pictures/use-kept-pictures";
import { useStored } from "../shared/store";
import { Tip } from "../shared/Tip";
import { useDropped } from "../shared/use-dropped";
import { keptTexts, useKeptText } from "../shared/use-kept-text";
import { type ConversationStore, textName } from "./conversation/conversation-store";
import { recalled } from "./conversation/recall";
import { keepSent, sentTexts } from "./conversation/sent-texts";

const LedgerAhead = dynamic(() => import("../shared/ledger/LedgerAhead"), { ssr: false });
const SayAgainSentence = dynamic(() => import("../shared/jobs/SayAgainSentence"), { ssr: false });

/** What others may do with the composer. */
export interface ComposerHandle {
  focus(): void;
}

/** What can be unfolded over it, one at a time. */
type Panel = "ledger" | "again";

interface Props {
  conversation: ConversationStore;
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
  panel: Panel | undefined;
  /** Unfolds one of them, or folds the one that is. */
  onPanel: (panel: Panel) => void;
  onNew: (() => void) | undefined;
  canSayAgain: boolean;
  /** Has the draft stored. */
  prepare: () => Promise<void>;
  /** What else has to be said above it. */
  children?: ReactNode;
  ref: Ref<ComposerHandle>;
}

/**
 * Where the next message of a conversation is written: it stays open while a reply arrives, sends one at a time,
 * keeps what was typed across a reload, and says what sending would cost.
 */
export function Composer(props: Props) {
  drawn("composer");
  const { conversation, sentName, content, ahead, prices, spent, onReach, onMend, isArriving, panel, onPanel } = props;
  const area = useRef<{ resizableTextArea?: { textArea: HTMLTextAreaElement }; focus: () => void }>(null);
  const name = textName(conversation.id);
  const text = useKeptText(name);
  const pictures = useKeptPictures(name);
  const adding = useAdding(name);
  const picker = useRef<HTMLInputElement>(null);
  useDropped(adding.add);
  const waits = useStored(conversation, (state) => state.waits);
  const isSending = useStored(conversation, (state) => state.isSending);
  /** How many messages back the text was recalled from; 0 where it was not. */
  const back = useRef(0);
  useImperativeHandle(props.ref, () => ({ focus: () => area.current?.focus() }));

  const pieces = useMemo(() => pictures.map((each) => ({ kind: "picture" as const, ...each })), [pictures]);
  const all = useMemo(() => withTyped(ahead, text, pieces), [ahead, text, pieces]);
  useEffect(() => onReach(all), [onReach, all]);
  const { tokens, margin, problem } = all;
  const { window } = ahead.room;
  const mends = useMemo(() => mendsOf(all, content), [all, content]);
  const hasContent = text.trim() !== "" || pictures.length > 0;
  const canSend = hasContent && !problem && !isSending && adding.underWay === 0;

  const send = () => {
    if (!canSend) return;
    back.current = 0;
    if (text.trim() !== "") keepSent(localStorage, sentName, text);
    adding.clear();
    void conversation.send();
    area.current?.focus();
  };
  const recall = (steps: 1 | -1): boolean => {
    const at = area.current?.resizableTextArea?.textArea.selectionStart ?? 0;
    const next = recalled(sentTexts(localStorage, sentName), { text, back: back.current }, { at }, steps);
    if (!next) return false;
    back.current = next.back;
    keptTexts.write(name, next.text);
    return true;
  };

  return (
    <div className={styles.composer}>
      {props.children}
      {problem && problem.kind !== "bad-request" && (
        <ProblemNote problem={problem}>
          {mends.map((mend) => (
            <Action key={mend.kind} onClick={() => onMend(mend.change)}>
              {wordsOfMend(mend)}
            </Action>
          ))}
        </ProblemNote>
      )}
      {panel === "ledger" && (
        <Unfolded label="What would be sent" onClose={() => onPanel("ledger")}>
          <LedgerAhead ahead={all} before={props.before} excerptOf={props.excerptOf} />
        </Unfolded>
      )}
      {panel === "again" && props.canSayAgain && (
        <Unfolded label="Say it again" onClose={() => onPanel("again")}>
          <SayAgainSentence
            conversation={conversation.id}
            prepare={props.prepare}
            onClose={() => {
              onPanel("again");
              area.current?.focus();
            }}
          />
        </Unfolded>
      )}
      <HeldPictures pictures={pictures} adding={adding} />
      <div className={styles.write} data-focus="home">
        <Input.TextArea
          ref={area as never}
          aria-label="Message"
          variant="borderless"
          autoFocus
          autoSize={{ minRows: 1, maxRows: 8 }}
          placeholder={isArriving ? "Write the next message" : "Write as a visitor would"}
          value={text}
          onChange={(event) => {
            keptTexts.write(name, event.target.value);
            conversation.wait(false);
          }}
          onPaste={(event) => {
            // what an office program copies is a text, with a picture of it beside
            if (event.clipboardData.files.length === 0 || event.clipboardData.types.includes("text/plain")) return;
            event.preventDefault();
            adding.add(event.clipboardData.files);
          }}
          onKeyDown={(event) => {
            if (event.nativeEvent.isComposing) return;
            const key = keyIn("message", event.nativeEvent)?.id;
            if (key === "send") send();
            else if (!(key === "older" && recall(1)) && !(key === "newer" && recall(-1))) return;
            event.preventDefault();
            event.stopPropagation();
          }}
        />
        {isArriving && <Button onClick={() => conversation.stop()}>Stop</Button>}
        <Button type="primary" disabled={!canSend} onClick={send}>
          {waits ? "Goes next" : isArriving ? "Send next" : "Send"}
        </Button>
      </div>
      <div className={styles.cost}>
        <span>
          about{" "}
          <b>
            <Tip says={`give or take ${count(margin)}`}>{count(tokens)}</Tip>
          </b>{" "}
          tokens in,{" "}
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
        <Action onClick={() => picker.current?.click()}>add a picture</Action>
        <input
          ref={picker}
          type="file"
          hidden
          multiple
          accept={pictureTypes.join(",")}
          onChange={(event) => {
            adding.add(event.target.files ?? []);
            event.target.value = "";
            area.current?.focus();
          }}
        />
        <Action aria-expanded={panel === "ledger"} onClick={() => onPanel("ledger")}>
          ledger
        </Action>
        {props.canSayAgain && (
          <Action aria-expanded={panel === "again"} onClick={() => onPanel("again")} aria-keyshortcuts="Alt+G">
            say it again
          </Action>
        )}
        {props.onNew && (
          <Action onClick={props.onNew} aria-keyshortcuts="Alt+N">
            new conversation
          </Action>
        )}
      </div>
    </div>
  );
}

/** What is unfolded over what is written. */
function Unfolded({ label, onClose, children }: { label: string; onClose: () => void; children: ReactNode }) {
  const panel = useRef<HTMLElement>(null);
  useLayer(panel, onClose);
  return (
    <section className={styles.panel} aria-label={label} ref={panel}>
      {children}
    </section>
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
