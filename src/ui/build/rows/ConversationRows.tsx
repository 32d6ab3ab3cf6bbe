import dynamic from "next/dynamic";
import { Fragment, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import type { Reached } from "@/core/context/reach";
import { Fallible } from "../../shared/Fallible";
import { wordsFor } from "../../shared/reasons";
import { FoldedRow } from "./FoldedRow";
import { stretchesOf } from "./folding";
import { ReplyRow, VisitorRow } from "./MessageRows";
import styles from "./Row.module.css";
import type { RowActions } from "./row-actions";
import { SiblingsBeside } from "./SiblingsBeside";

const DispatchSheet = dynamic(() => import("../../dispatch/DispatchSheet"), { ssr: false });

interface Props {
  conversation: string | null;
  /** The messages that are read, and what becomes of each. */
  line: readonly LineMessage[];
  rows: readonly Reached[];
  app: string;
  providers: Provider[];
  /** The output limit of the draft. */
  limit: number | undefined;
  /** Whether the column of figures is shown. */
  hasFigures: boolean;
  /** The message whose siblings are shown side by side, and the reply whose dispatches are. */
  beside: string | undefined;
  inspected: string | undefined;
  actions: RowActions;
}

/** The rows of a conversation under its prompt; turns that are left out together are folded. */
export function ConversationRows({ line, rows, ...props }: Props) {
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  return stretchesOf(rows, open).map(({ from, to, isFolded }) => {
    const messages = line.slice(from, to);
    const [first] = messages;
    if (!first) return null;
    if (isFolded)
      return (
        <FoldedRow
          key={first.id}
          messages={messages}
          tokens={rows.slice(from, to).reduce((sum, row) => sum + row.tokens, 0)}
          why={wordsFor((rows[to - 1] as Reached).reason)}
          onShow={() => setOpen(new Set([...open, ...messages.map(({ id }) => id)]))}
        />
      );
    return (
      <Fragment key={first.id}>
        {messages.map((message, offset) => (
          <Fallible key={message.id} what="this row">
            <MessageRow
              {...props}
              message={message}
              reached={rows[from + offset] as Reached}
              isFirst={!(rows[from + offset - 1]?.carried ?? true)}
              isLastCarried={!rows[from + offset + 1]?.carried}
              isEnd={message.id === line.at(-1)?.id}
            />
          </Fallible>
        ))}
      </Fragment>
    );
  });
}

function MessageRow({
  conversation,
  message,
  reached: { tokens, carried, reason },
  isFirst,
  isLastCarried,
  isEnd,
  app,
  providers,
  limit,
  hasFigures,
  beside,
  inspected,
  actions,
}: Omit<Props, "line" | "rows"> & {
  message: LineMessage;
  reached: Reached;
  isFirst: boolean;
  isLastCarried: boolean;
  isEnd: boolean;
}) {
  const bracket = { carried, first: isFirst, last: isLastCarried };
  const isBeside = beside === message.id;
  return (
    <>
      {message.role === "visitor" ? (
        <VisitorRow
          {...{ message, tokens, isBeside, actions }}
          {...bracket}
          why={carried ? undefined : wordsFor(reason)}
        />
      ) : (
        <ReplyRow
          {...{ message, tokens, app, isBeside, providers, limit, hasFigures, actions }}
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
      {message.isCleared && (
        <div className={styles.clear} role="note">
          Cleared: nothing above is carried.
          <button type="button" className="link" onClick={() => actions.clear(message.id, false)}>
            take it away
          </button>
        </div>
      )}
      {message.id === inspected && (
        <Fallible what="the dispatch">
          <DispatchSheet reply={message.id} onFold={() => actions.inspect(message.id)} />
        </Fallible>
      )}
    </>
  );
}
