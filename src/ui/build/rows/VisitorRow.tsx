import { memo } from "react";
import type { LineMessage } from "@/contract/conversations";
import { textOf } from "@/core/conversation/pieces";
import { Action } from "../../shared/Action";
import { CompareLink } from "../../shared/CompareLink";
import { drawn } from "../../shared/drawn";
import { count } from "../../shared/format";
import { Pieces } from "../../shared/markdown/Pieces";
import { SheetRow, Who } from "../../shared/sheet/SheetRow";
import { BranchSentence, Siblings } from "../../shared/sheet/Siblings";
import styles from "../../shared/sheet/sheet.module.css";
import { useStored } from "../../shared/store";
import { wordsFor } from "../../shared/wording/reasons";
import { useRowScene } from "../scene";
import { EditText } from "./EditText";
import type { RowFate } from "./fate";
import { isLeftOut } from "./folding";
import { whichOf } from "./which";

/** A visitor's message. */
export const VisitorRow = memo(function VisitorRow({ message, fate }: { message: LineMessage; fate: RowFate }) {
  drawn(`row ${message.id}`);
  const { conversation, acts } = useRowScene();
  const { id, turn, siblings } = message;
  const unfolded = useStored(conversation, (state) =>
    state.unfolded?.message === id ? state.unfolded.what : undefined,
  );
  const { tokens, carried, reason, isNewest, isBeingAnswered, isUnanswered, first, last } = fate;
  const isEdited = unfolded === "change";
  const why = isNewest && isLeftOut(reason) ? "sent; the next message goes without it" : wordsFor(reason);
  return (
    <SheetRow
      tone="visitor"
      turn={String(turn)}
      tokens={count(tokens)}
      bracket={{ carried, first, last, newest: isNewest }}
      label={`Turn ${turn}, visitor${whichOf("line", message)}`}
      side={
        <>
          {message.isPinned && <div>pinned</div>}
          {siblings.length > 1 && (
            <Siblings
              what="line"
              of={siblings}
              shown={id}
              turn={turn}
              isBeside={unfolded === "beside"}
              onShow={acts.show}
              onBeside={() => conversation.unfold(id, "beside")}
            />
          )}
        </>
      }
      actions={
        !isEdited && (
          <>
            <Action data-focus={`change ${id}`} onClick={() => conversation.unfold(id, "change")}>
              change
            </Action>
            <Action data-focus={`pin ${id}`} onClick={() => acts.pin(id, !message.isPinned)}>
              {message.isPinned ? "unpin" : "pin"}
            </Action>
            <CompareLink conversation={conversation.id} message={id} turn={turn} />
            {siblings.length > 1 && (
              <BranchSentence
                what="line"
                name={siblings.find((each) => each.id === id)?.name ?? null}
                onName={(name) => acts.name(id, name)}
                onRemove={() => acts.remove(id)}
              />
            )}
          </>
        )
      }
    >
      <Who>Visitor</Who>
      {isEdited ? (
        <EditText
          name={`change ${id}`}
          label={`Turn ${turn}, said in another way`}
          text={textOf(message)}
          does="Send as another line"
          onDone={(changed) => acts.change(message, changed)}
          onClose={conversation.fold}
        />
      ) : (
        <Pieces pieces={message.pieces} by="visitor" />
      )}
      {!carried && !isBeingAnswered && why && (
        <span className={styles.why}>
          {why}
          {isUnanswered && (
            <>
              {" "}
              <Action onClick={() => acts.again(id)}>ask again</Action>
            </>
          )}
        </span>
      )}
    </SheetRow>
  );
});
