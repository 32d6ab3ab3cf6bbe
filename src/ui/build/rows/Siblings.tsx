import { type KeyboardEvent, useState } from "react";
import { mostCounted, type Sibling } from "@/contract/conversations";
import { turnsUpTo } from "../../shared/format";
import { AskedTwice, KeptWord } from "../../shared/words";
import styles from "./Siblings.module.css";

/** What can be chosen in the place of a message: takes of a reply, or lines that part. By number: by click, or by key. */
export function Siblings({
  what,
  of,
  shown,
  turn,
  onShow,
  onBeside,
  isBeside,
}: {
  what: "take" | "line";
  of: readonly Sibling[];
  shown: string;
  turn: number;
  onShow: (id: string) => void;
  onBeside: () => void;
  /** Whether two of them are open side by side. */
  isBeside: boolean;
}) {
  const at = of.findIndex(({ id }) => id === shown);
  const choose = (event: KeyboardEvent) => {
    if (event.altKey || event.ctrlKey || event.metaKey || !/^[0-9]$/.test(event.key)) return;
    const chosen = of[(Number(event.key) + 9) % 10];
    if (!chosen) return;
    event.preventDefault();
    onShow(chosen.id);
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset has no place in a line of text
    <div
      className={styles.siblings}
      role="group"
      data-siblings={what}
      aria-label={`${what === "take" ? "Takes" : "Lines"} of turn ${turn}: ${at + 1} of ${of.length} is shown`}
      onKeyDown={choose}
    >
      {what}s{" "}
      {of.map(({ id, name, turns }, place) => (
        <span key={id}>
          {place > 0 && " · "}
          <button
            type="button"
            className="link"
            aria-current={id === shown}
            aria-label={`${what} ${place + 1}${name ? `, ${name}` : ""}`}
            title={turnsAfter(what, turns)}
            onClick={() => id !== shown && onShow(id)}
          >
            {place + 1}
            {name && ` “${name}”`}
          </button>
        </span>
      ))}
      {" · "}
      <button type="button" className="link" aria-expanded={isBeside} onClick={onBeside}>
        side by side
      </button>
    </div>
  );
}

function turnsAfter(what: "take" | "line", turns: number): string {
  const counted = turnsUpTo(turns, mostCounted);
  if (what === "line") return counted;
  return turns === 0 ? "nothing follows it" : `${counted} after it`;
}

/** What is done with the branch that begins with a message: it is named, or deleted once that was asked twice. */
export function BranchWords({
  what,
  name,
  onName,
  onRemove,
}: {
  what: "take" | "line";
  name: string | null;
  onName: (name: string | null) => void;
  onRemove: () => void;
}) {
  const [isAsked, setAsked] = useState(false);
  return (
    <>
      <span>
        called{" "}
        <KeptWord
          label={`Name of this ${what}`}
          value={name ?? ""}
          placeholder="nothing yet"
          onKeep={(next) => onName(next.trim() === "" ? null : next.trim().slice(0, 80))}
        />
      </span>
      {isAsked ? (
        <AskedTwice
          question={`Delete this ${what} with all that follows, for good?`}
          does="delete"
          onDo={onRemove}
          onCancel={() => setAsked(false)}
        />
      ) : (
        <button type="button" className="link" onClick={() => setAsked(true)}>
          delete this {what}
        </button>
      )}
    </>
  );
}
