import dynamic from "next/dynamic";
import { Fragment, type ReactNode, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import type { Reached } from "@/core/context/judged";
import type { Candidate } from "@/core/reply/events";
import { isUnderWay } from "@/core/reply/reply";
import { Fallible } from "../../shared/Fallible";
import { ProviderName } from "../../shared/ProviderName";
import { wordsFor } from "../../shared/reasons";
import { FoldedRow } from "./FoldedRow";
import { isLeftOut, stretchesOf } from "./folding";
import { ReplyRow, VisitorRow } from "./MessageRows";
import type { Bracket } from "./Row";
import styles from "./Row.module.css";
import type { RowActions } from "./row-actions";
import { SiblingsBeside } from "./SiblingsBeside";

const DispatchSheet = dynamic(() => import("../../dispatch/DispatchSheet"), { ssr: false });

/** A summary in the sheet. */
export interface SummaryPlace {
  /** The last turn that it covers. */
  upTo: number;
  isCarried: boolean;
  row: (bracket: Pick<Bracket, "first" | "last">) => ReactNode;
}

interface Props {
  conversation: string | null;
  /** The summary of what is older, and the last turn that it covers; none where the memory carries none. */
  summary: SummaryPlace | undefined;
  /** The messages that are read, and what becomes of each. */
  line: readonly LineMessage[];
  rows: readonly Reached[];
  app: string;
  providers: Provider[];
  /** The output limit of the draft. */
  limit: number | undefined;
  /** The model that is to answer, where it remembers only its own. */
  apart: Candidate | undefined;
  /** Whether the column of figures is shown. */
  hasFigures: boolean;
  /** The message whose siblings are shown side by side, and the reply whose dispatches are. */
  beside: string | undefined;
  inspected: string | undefined;
  actions: RowActions;
}

/** The rows of a conversation under its prompt; turns that are left out together are folded. */
export function ConversationRows({ line, rows, summary, ...props }: Props) {
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const stretches = stretchesOf(rows, open);
  // the summary stands before the first turn that it does not cover
  const place = summary ? stretches.findIndex(({ to }) => (line[to - 1]?.turn ?? 0) > summary.upTo) : -1;
  const isCarried = (at: number) => rows[at]?.carried ?? true;
  const summaryAt = stretches[place]?.from;
  return stretches.map(({ from, to, isFolded }, at) => {
    const messages = line.slice(from, to);
    const [first] = messages;
    if (!first) return null;
    const here = at === place ? summary : undefined;
    const above = here?.row({ first: !isCarried(from - 1), last: !rows[from]?.carried });
    if (isFolded)
      return (
        <Fragment key={first.id}>
          {above}
          <FoldedRow
            messages={messages}
            tokens={rows.slice(from, to).reduce((sum, row) => sum + row.tokens, 0)}
            why={wordsFor((rows[to - 1] as Reached).reason)}
            onShow={() => setOpen(new Set([...open, ...messages.map(({ id }) => id)]))}
          />
        </Fragment>
      );
    return (
      <Fragment key={first.id}>
        {above}
        {messages.map((message, offset) => (
          <Fallible key={message.id} what="this row">
            <MessageRow
              {...props}
              message={message}
              isUnanswered={rows[from + offset]?.reason.kind === "unanswered" && !hasFailed(line[from + offset + 1])}
              reached={rows[from + offset] as Reached}
              isFirst={here && offset === 0 ? !here.isCarried : !isCarried(from + offset - 1)}
              isLastCarried={from + offset + 1 === summaryAt ? !summary?.isCarried : !rows[from + offset + 1]?.carried}
              isEnd={message.id === line.at(-1)?.id}
              isNewest={message.turn === line.at(-1)?.turn}
              isBeingAnswered={isArriving(line[from + offset + 1])}
            />
          </Fallible>
        ))}
      </Fragment>
    );
  });
}

function isArriving(message: LineMessage | undefined): boolean {
  return message?.role === "app" && isUnderWay(message.state);
}

/** Whether a message is a reply whose row says what went wrong, and asks again. */
function hasFailed(message: LineMessage | undefined): boolean {
  const kind = message?.role === "app" ? message.facts.problem?.kind : undefined;
  return kind !== undefined && kind !== "interrupted";
}

function MessageRow({
  conversation,
  message,
  reached: { tokens, carried, reason },
  isFirst,
  isLastCarried,
  isEnd,
  isNewest,
  isBeingAnswered,
  isUnanswered,
  app,
  providers,
  limit,
  apart,
  hasFigures,
  beside,
  inspected,
  actions,
}: Omit<Props, "line" | "rows" | "summary"> & {
  message: LineMessage;
  reached: Reached;
  isFirst: boolean;
  isLastCarried: boolean;
  isEnd: boolean;
  isNewest: boolean;
  /** Whether its reply is under way. */
  isBeingAnswered: boolean;
  /** Whether it has no answer, and nothing beside says how to ask again. */
  isUnanswered: boolean;
}) {
  const bracket = { carried, first: isFirst, last: isLastCarried, newest: isNewest };
  const why = isNewest && isLeftOut(reason) ? "sent; the next message goes without it" : wordsFor(reason);
  const isBeside = beside === message.id;
  return (
    <>
      {message.role === "visitor" ? (
        <VisitorRow
          {...{ message, tokens, isBeside, actions }}
          {...bracket}
          why={carried || isBeingAnswered ? undefined : why}
          isUnanswered={isUnanswered}
        />
      ) : (
        <ReplyRow
          {...{ message, tokens, app, isBeside, providers, limit, apart, hasFigures, actions }}
          conversation={conversation ?? undefined}
          {...bracket}
          isLast={isEnd}
          isInspected={message.id === inspected}
        />
      )}
      {isBeside && message.siblings.length > 1 && (
        <Fallible what="them side by side">
          <SiblingsBeside message={message} conversation={conversation ?? ""} />
        </Fallible>
      )}
      {message.clearedFor.map((by) => (
        <div key={by ? `${by.provider} ${by.model}` : ""} className={styles.clear} role="note">
          {by ? (
            <span>
              Cleared for {by.model} on <ProviderName of={by.provider} />: nothing above is carried to it.
            </span>
          ) : (
            "Cleared: nothing above is carried."
          )}
          <button type="button" className="link" onClick={() => actions.clear(message.id, false, by)}>
            take it away
          </button>
        </div>
      ))}
      {message.id === inspected && (
        <Fallible what="the dispatch">
          <DispatchSheet of={message.id} onFold={() => actions.inspect(message.id)} />
        </Fallible>
      )}
    </>
  );
}
