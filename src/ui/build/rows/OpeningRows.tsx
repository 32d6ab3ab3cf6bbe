import type { Part } from "@/core/context/reach";
import type { Content } from "@/core/revision/content";
import { count } from "../../shared/format";
import { PlainText } from "../../shared/markdown/Markdown";
import { wordsFor } from "../../shared/reasons";
import { type Bracket, Row } from "./Row";
import styles from "./Row.module.css";

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
    <Row
      key={at}
      tone="prompt"
      turn={at === 0 ? "opening" : undefined}
      tokens={at === 0 ? count(part.tokens) : undefined}
      carried={part.carried}
      first={false}
      last={bracket.last && at === opening.length - 1}
      label={`Opening, turn ${at + 1}`}
      side={
        <button type="button" className="link" onClick={onEdit}>
          edit it
        </button>
      }
    >
      <div>
        <span className={styles.who}>Visitor</span>
        <PlainText text={visitor} />
      </div>
      <div>
        <span className={styles.who}>{app}</span>
        <PlainText text={said} />
      </div>
      {!part.carried && <span className={styles.why}>{wordsFor(part.reason)}</span>}
    </Row>
  ));
}
