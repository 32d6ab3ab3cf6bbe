import dynamic from "next/dynamic";
import { memo, useMemo } from "react";
import { Action } from "../shared/Action";
import { Fallible } from "../shared/Fallible";
import { count, many, moment, price } from "../shared/format";
import { cameFrom } from "../shared/wording/origins";
import styles from "./HistoryView.module.css";
import { Strip } from "./Strip";
import { type PackedConversation, turnsIn } from "./strip-turns";

const Reading = dynamic(() => import("./Reading"), { ssr: false });

interface Props {
  slug: string;
  words: string | undefined;
  conversation: PackedConversation;
  longest: number;
  isActive: boolean;
  isChosen: boolean;
  isOpened: boolean;
  onChoose: () => void;
  onOpen: () => void;
  isDeleted: boolean;
  onDelete: () => void;
  onRestore: () => void;
}

/** One conversation: its title and its strip, and what it says where it is open. */
export const ConversationRow = memo(function ConversationRow(props: Props) {
  const { conversation, longest, isActive, isChosen, isOpened, onChoose, onOpen } = props;
  const { id, opening, title, origin, client, visitor, updatedAt, turnCount, tokens, tags, rated } = conversation;
  const turns = useMemo(() => turnsIn(conversation.strip), [conversation.strip]);
  const from = [moment(updatedAt, Date.now()), cameFrom({ origin, client }), visitor];
  const size = [
    many(turnCount, "turn"),
    `${count(tokens)} tokens`,
    conversation.price && price(conversation.price.amount, conversation.price.currency),
  ];
  return (
    <>
      <div className={styles.line}>
        <input
          type="checkbox"
          className={styles.choose}
          checked={isChosen}
          tabIndex={-1}
          aria-label={`Choose: ${title ?? opening}`}
          onChange={onChoose}
        />
        <button
          type="button"
          className={styles.open}
          data-open
          tabIndex={isActive ? 0 : -1}
          aria-expanded={isOpened}
          onClick={onOpen}
        >
          <span className={styles.opening}>
            {title ?? opening}
            {rated.map((rating) => (
              <small key={rating} data-rating={rating}>
                marked {rating}
              </small>
            ))}
            {tags.map((tag) => (
              <small key={tag}>{tag}</small>
            ))}
          </span>
          <Strip turns={turns} longest={longest} />
        </button>
        <div className={styles.side}>
          <div>{from.filter(Boolean).join(" · ")}</div>
          <div>{size.filter(Boolean).join(" · ")}</div>
        </div>
      </div>
      {isOpened && props.isDeleted && (
        <p className={styles.deleted}>
          It was deleted, and can be restored for a day. <Action onClick={props.onRestore}>restore it</Action>
        </p>
      )}
      {isOpened && !props.isDeleted && (
        <Fallible what="this conversation">
          <Reading slug={props.slug} conversation={id} words={props.words} onDelete={props.onDelete} onClose={onOpen} />
        </Fallible>
      )}
    </>
  );
});
