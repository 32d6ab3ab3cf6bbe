import Link from "next/link";
import type { MessageSet } from "@/contract/sets";
import { Action } from "../../shared/Action";
import { laneSaid, listed, type Spoken } from "../../shared/candidate/candidate-words";
import { many } from "../../shared/format";
import { TextValue } from "../../shared/inline/TextValue";
import styles from "../Compare.module.css";
import { LanesSaid } from "../LanesSaid";

/** What a set asks of whom, and under what name it is saved. */
export function SetSentence({
  slug,
  lanes,
  set,
  panel,
  saved,
  onPanel,
  onAdd,
  onName,
  onAnew,
  onOneMessage,
}: {
  slug: string;
  lanes: readonly (Spoken & { key: string })[];
  set: MessageSet | undefined;
  panel: string | undefined;
  /** How many sets are saved. */
  saved: number;
  onPanel: (panel: string) => void;
  onAdd: (() => void) | undefined;
  onName: (name: string) => void;
  /** Has what was asked stand there to be asked anew. */
  onAnew: () => void;
  onOneMessage: () => void;
}) {
  return (
    <div className={styles.asks}>
      <p>
        {set ? (
          <>
            {set.hidesNames ? "Asked" : `Asked ${listed(lanes.map(laneSaid))}`}{" "}
            {set.hidesNames && `${lanes.length} candidates whose names are hidden `}
            each of <b>{many(set.rows.length, "message")}</b>, each from the start.
          </>
        ) : (
          <>
            Asks <LanesSaid {...{ lanes, panel, onPanel }} /> each message of a set, each from the start.{" "}
            {onAdd && <Action onClick={onAdd}>one more</Action>}
          </>
        )}
      </p>
      <div className={styles.under}>
        {set && (
          <>
            <span>
              saved as{" "}
              <TextValue
                label="Name of this set"
                value={set.name ?? ""}
                placeholder="no name"
                maxLength={100}
                onChange={onName}
              />
            </span>
            <Action onClick={onAnew}>change it and ask anew</Action>
          </>
        )}
        <Action aria-expanded={panel === "list"} data-focus="list" onClick={() => onPanel("list")}>
          {many(saved, "saved set")}
        </Action>
        <Link href={`/apps/${slug}/compare`} onClick={onOneMessage}>
          one message instead
        </Link>
      </div>
    </div>
  );
}
