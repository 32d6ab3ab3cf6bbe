import { useEffect, useState } from "react";
import { wordFor } from "@/core/problem/problem";
import { canGoOn, isUnderWay, type Reply } from "@/core/reply/reply";
import { Action } from "../../shared/Action";
import { Bars } from "../../shared/axis/Bars";
import { cost, count, many } from "../../shared/format";
import { Siblings } from "../../shared/sheet/Siblings";
import styles from "../../shared/sheet/sheet.module.css";
import { useStored } from "../../shared/store";
import { Tip } from "../../shared/Tip";
import { wordsOfState } from "../../shared/wording/endings";
import { doneWords, wordsOfCaught } from "../../shared/wording/guards";
import { madeBy } from "../../shared/wording/makers";
import type { AppMessage } from "../conversation/conversation";
import type { Unfolded } from "../conversation/conversation-store";
import { useRowScene } from "../scene";

interface SideProps {
  message: AppMessage;
  reply: Reply;
  tokens: number;
  isLast: boolean;
  /** What stands unfolded at it. */
  unfolded: Unfolded["what"] | undefined;
}

/** What is known of a reply: who made it, how fast, for how much, how it ended, and what can be done. */
export function ReplySide({ message, reply, tokens, isLast, unfolded }: SideProps) {
  const { conversation, acts } = useRowScene();
  const { id } = message;
  const { model, firstTextMs, totalMs, trace, attempts, rounds, mended, failures, insteadOf, hand, imported, summary } =
    message.facts;
  const {
    strayMarks,
    unstated,
    unready,
    wordsAlone,
    caught,
    passages,
    question,
    questionMaking,
    cites = [],
  } = message.facts;
  // where a guard refused what was said, nobody was called
  const isUnsent = caught?.some(({ on, does }) => on === "sent" && does === "refuse");
  const takes = message.siblings.length > 1 && (
    <Siblings
      what="take"
      of={message.siblings}
      shown={id}
      turn={message.turn}
      isBeside={unfolded === "beside"}
      onShow={acts.show}
      onBeside={() => conversation.unfold(id, "beside")}
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
          onStop={() => conversation.stop(id)}
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
      {question && (
        <div>
          looked for: “{question}”{" "}
          {questionMaking && (
            <Action
              aria-label="Dispatch of what was looked for"
              aria-expanded={unfolded === "question"}
              data-focus={`question ${id}`}
              onClick={() => conversation.unfold(id, "question")}
            >
              its dispatch
            </Action>
          )}
        </div>
      )}
      {passages && <div>{wordsOfPassages(passages, cites.length)}</div>}
      {unready && <div className={styles.caution}>{many(unready, "document")} not read yet</div>}
      {wordsAlone && (
        <div className={styles.caution}>
          <Tip says={`${wordsAlone.detail} ${wordsAlone.advice}`}>passages found by words alone</Tip>
        </div>
      )}
      {caught?.map((each) => (
        <div key={`${each.guard} ${each.on} ${each.what}`} className={styles.caution}>
          <Tip says={`${each.guard}, before ${each.on === "sent" ? "sending" : "showing"}`}>
            {`${doneWords[each.does]}: ${wordsOfCaught(each)}`}
          </Tip>
        </div>
      ))}
      {unstated && <div>no passage states {unstated.join(", ")}</div>}
      {strayMarks && <div className={styles.caution}>cites what it did not have: {strayMarks.join(", ")}</div>}
      {rounds !== undefined && <div>{many(rounds, "round")} of tools</div>}
      {mended && <div className={styles.caution}>asked for once more: it did not fit its schema</div>}
      {isLast && canGoOn(reply.state) && <GoingOn message={message} isCut={reply.state === "cut"} />}
      {!imported && !isUnsent && (
        <button
          type="button"
          className={styles.inspect}
          aria-label={`Dispatch of the reply by ${model}`}
          aria-expanded={unfolded === "dispatch"}
          data-focus={`dispatch ${id}`}
          onClick={() => conversation.unfold(id, "dispatch")}
        >
          {trace && (
            <i className={styles.trace}>
              <Bars buckets={trace} label="How its text arrived over time" />
            </i>
          )}
          <span>dispatch</span>
        </button>
      )}
    </>
  );
}

/** What became of what the message found in documents, in a few words. */
function wordsOfPassages(
  { found, carried }: NonNullable<SideProps["message"]["facts"]["passages"]>,
  cited: number,
): string {
  if (found === 0) return "found nothing in its documents";
  if (carried === 0) return `found ${many(found, "passage")}, carried none`;
  return `cites ${cited === 0 ? "none" : cited} of ${many(carried, "passage")}`;
}

function GoingOn({ message, isCut }: { message: AppMessage; isCut: boolean }) {
  const { draft, acts } = useRowScene();
  const limit = useStored(draft, ({ content }) => content.settings.maxOutput);
  const raise = () => draft.edit({ settings: { ...draft.state.content.settings, maxOutput: (limit ?? 0) * 2 } });
  return (
    <div className={styles.links}>
      <Action onClick={() => acts.goOn(message.id)}>continue</Action>
      {isCut && limit !== undefined && <Action onClick={raise}>raise the limit to {count(limit * 2)}</Action>}
    </div>
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
  onStop: () => void;
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
      <Action onClick={onStop}>stop</Action> (Esc)
    </>
  );
}
