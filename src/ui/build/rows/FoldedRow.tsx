import type { LineMessage } from "@/contract/conversations";
import { textOf } from "@/core/conversation/pieces";
import { Action } from "../../shared/Action";
import { count, many } from "../../shared/format";
import { SheetRow } from "../../shared/sheet/SheetRow";
import styles from "../../shared/sheet/sheet.module.css";

/** Characters of a message that stand for it, and messages that do. */
const shown = 36;
const mostNamed = 3;

/** Several turns that are left out for the same reason, as one row. */
export function FoldedRow({
  messages,
  tokens,
  why,
  onShow,
}: {
  messages: readonly LineMessage[];
  tokens: number;
  why: string;
  onShow: () => void;
}) {
  const said = messages.filter(({ role }) => role === "visitor");
  const [first, last] = [messages[0]?.turn ?? 0, messages.at(-1)?.turn ?? 0];
  const named = said.slice(0, mostNamed).map((message) => {
    const text = textOf(message).replace(/\s+/g, " ").trim() || "a picture";
    return text.length > shown ? `${text.slice(0, shown).trimEnd()}…` : text;
  });
  const more = said.length - named.length;
  return (
    <SheetRow
      tone="visitor"
      turn={`${first}–${last}`}
      tokens={count(tokens)}
      bracket={{ carried: false, first: false, last: false }}
      label={`Turns ${first} to ${last}, folded`}
      side={<Action onClick={onShow}>show them</Action>}
    >
      {many(last - first + 1, "turn")}: {named.join(" · ")}
      {more > 0 && ` and ${more} more`}
      <span className={styles.why}>{why}</span>
    </SheetRow>
  );
}
