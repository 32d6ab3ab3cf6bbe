import type { Part } from "@/core/context/reach";
import type { Content } from "@/core/revision/content";
import { Action } from "../../shared/Action";
import { count } from "../../shared/format";
import { PlainText } from "../../shared/markdown/PlainText";
import { type Bracket, SheetRow, Who } from "../../shared/sheet/SheetRow";
import styles from "../../shared/sheet/sheet.module.css";
import { wordsFor } from "../../shared/wording/reasons";

/** The fixed turns before the conversation: sent with each call, and no visitor's. */
export function OpeningRows({
  opening = [],
  part,
  app,
  onEdit,
  ...bracket
}: Pick<Content, "opening"> & Pick<Bracket, "last"> & { part: Part | undefined; app: string; onEdit: () => void }) {
  if (!part) return null;
  return opening.map(({ visitor, app: said }, at) => (
    <SheetRow
      key={at}
      tone="prompt"
      turn={at === 0 ? "opening" : undefined}
      tokens={at === 0 ? count(part.tokens) : undefined}
      bracket={{ carried: part.carried, first: false, last: bracket.last && at === opening.length - 1 }}
      label={`Opening, turn ${at + 1}`}
      side={<Action onClick={onEdit}>edit it</Action>}
    >
      <div>
        <Who>Visitor</Who>
        <PlainText text={visitor} />
      </div>
      <div>
        <Who>{app}</Who>
        <PlainText text={said} />
      </div>
      {!part.carried && <span className={styles.why}>{wordsFor(part.reason)}</span>}
    </SheetRow>
  ));
}
