import { replaceEqualDeep } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { Fragment, memo, type ReactNode, useMemo, useRef, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import type { Reached } from "@/core/context/judged";
import { Action } from "../../shared/Action";
import { Fallible } from "../../shared/Fallible";
import { ProviderName } from "../../shared/ProviderName";
import type { Bracket } from "../../shared/sheet/SheetRow";
import styles from "../../shared/sheet/sheet.module.css";
import { useStored } from "../../shared/store";
import { wordsFor } from "../../shared/wording/reasons";
import { useRowScene } from "../scene";
import { FoldedRow } from "./FoldedRow";
import { fatesOf, type RowFate } from "./fate";
import { stretchesOf } from "./folding";
import { ReplyRow } from "./ReplyRow";
import { SiblingsBeside } from "./SiblingsBeside";
import { VisitorRow } from "./VisitorRow";

const DispatchSheet = dynamic(() => import("../../dispatch/DispatchSheet"), { ssr: false });

/** A summary in the sheet. */
export interface SummaryInSheet {
  /** The last turn that it covers. */
  upTo: number;
  isCarried: boolean;
  row: (bracket: Pick<Bracket, "first" | "last">) => ReactNode;
}

interface Props {
  /** The messages that were read, and what becomes of each. */
  line: readonly LineMessage[];
  rows: readonly Reached[];
  /** The summary of what is older; none where the memory carries none. */
  summary: SummaryInSheet | undefined;
}

/** The rows of a conversation under its prompt; turns that are left out together are folded. */
export function ConversationRows({ line, rows, summary }: Props) {
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const stretches = useMemo(() => stretchesOf(rows, open), [rows, open]);
  // the summary stands before the first turn that it does not cover
  const place = summary ? stretches.findIndex(({ to }) => (line[to - 1]?.turn ?? 0) > summary.upTo) : -1;
  const at = stretches[place]?.from ?? -1;
  const fates = useFates(line, rows, summary && { at, isCarried: summary.isCarried });
  return stretches.map(({ from, to, isFolded }, number) => {
    const messages = line.slice(from, to);
    const [first] = messages;
    if (!first) return null;
    const above =
      summary && number === place
        ? summary.row({ first: !(rows[from - 1]?.carried ?? true), last: !rows[from]?.carried })
        : undefined;
    return (
      <Fragment key={first.id}>
        {above}
        {isFolded ? (
          <FoldedRow
            messages={messages}
            tokens={rows.slice(from, to).reduce((sum, row) => sum + row.tokens, 0)}
            why={wordsFor((rows[to - 1] as Reached).reason)}
            onShow={() => setOpen(new Set([...open, ...messages.map(({ id }) => id)]))}
          />
        ) : (
          messages.map((message, offset) => (
            <MessageRow key={message.id} message={message} fate={fates[from + offset] as RowFate} />
          ))
        )}
      </Fragment>
    );
  });
}

/** How each message stands: the same object for as long as it stands the same. */
function useFates(
  line: readonly LineMessage[],
  rows: readonly Reached[],
  summary: { at: number; isCarried: boolean } | undefined,
): readonly RowFate[] {
  const last = useRef<ReadonlyMap<string, RowFate>>(new Map());
  const { at, isCarried } = summary ?? {};
  return useMemo(() => {
    const fates = fatesOf(line, rows, at === undefined ? undefined : { at, isCarried: isCarried ?? false });
    const shared = fates.map((fate, place) => replaceEqualDeep(last.current.get(line[place]?.id ?? ""), fate));
    last.current = new Map(shared.map((fate, place) => [line[place]?.id ?? "", fate]));
    return shared;
  }, [line, rows, at, isCarried]);
}

/** A message, with what stands unfolded under it. */
const MessageRow = memo(function MessageRow({ message, fate }: { message: LineMessage; fate: RowFate }) {
  const { conversation, acts } = useRowScene();
  const { id } = message;
  const unfolded = useStored(conversation, (state) =>
    state.unfolded?.message === id ? state.unfolded.what : undefined,
  );
  return (
    <>
      <Fallible what="this row">
        {message.role === "visitor" ? (
          <VisitorRow message={message} fate={fate} />
        ) : (
          <ReplyRow message={message} fate={fate} />
        )}
      </Fallible>
      {unfolded === "beside" && message.siblings.length > 1 && (
        <Fallible what="them side by side">
          <SiblingsBeside message={message} conversation={conversation.id} onFold={conversation.fold} />
        </Fallible>
      )}
      {message.clearedFor.map((by) => (
        <div
          key={by ? `${by.provider} ${by.model}` : ""}
          className={styles.clear}
          role="note"
          data-focus={by ? undefined : `clear ${id}`}
        >
          {by ? (
            <span>
              Cleared for {by.model} on <ProviderName of={by.provider} />: nothing above is carried to it.
            </span>
          ) : (
            "Cleared: nothing above is carried."
          )}
          <Action onClick={() => acts.clear(id, false, by)}>delete it</Action>
        </div>
      ))}
      {unfolded === "dispatch" && (
        <Fallible what="the dispatch">
          <DispatchSheet of={id} onFold={conversation.fold} />
        </Fallible>
      )}
      {unfolded === "question" && message.role === "app" && message.facts.questionMaking && (
        <Fallible what="the dispatch">
          <DispatchSheet of={message.facts.questionMaking} what="making" onFold={conversation.fold} />
        </Fallible>
      )}
    </>
  );
});
