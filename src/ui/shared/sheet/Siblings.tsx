import { type KeyboardEvent, useEffect, useRef } from "react";
import { mostCounted, type Sibling } from "@/contract/conversations";
import { Action } from "../Action";
import { ConfirmAction } from "../Confirm";
import { turnsUpTo } from "../format";
import { TextValue } from "../inline/TextValue";
import { keyIn } from "../keys/table";
import { Tip } from "../Tip";
import { typedDigit } from "./digits";
import styles from "./sheet.module.css";

/** Milliseconds in which a second digit is waited for. */
const patience = 700;

/** What can be chosen in the place of a message: takes of a reply, or lines that part. By number: by click, or by key. */
export function Siblings({
  what,
  of,
  shown,
  turn,
  verb = "",
  onShow,
  onBeside,
  isBeside,
}: {
  what: "take" | "line";
  of: readonly Sibling[];
  shown: string;
  turn: number;
  /** What choosing one does, where that is not to show it. */
  verb?: string;
  onShow: (id: string) => void;
  onBeside: () => void;
  /** Whether two of them are open side by side. */
  isBeside: boolean;
}) {
  const at = of.findIndex(({ id }) => id === shown);
  const onKeyDown = useNumber(of.length, (number) => {
    const chosen = of[number - 1];
    if (chosen && chosen.id !== shown) onShow(chosen.id);
  });
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset has no place in a line of text
    <div
      className={styles.siblings}
      role="group"
      data-siblings={what}
      data-focus={`${what}s of turn ${turn}`}
      aria-label={`${what === "take" ? "Takes" : "Lines"} of turn ${turn}: ${at + 1} of ${of.length} is shown`}
      onKeyDown={onKeyDown}
    >
      {what}s{" "}
      {of.map(({ id, name, turns }, place) => (
        <span key={id}>
          {place > 0 && " · "}
          <Tip says={turnsAfter(what, turns)}>
            <Action
              aria-current={id === shown}
              aria-label={`${verb}${what} ${place + 1}${name ? `, ${name}` : ""}`}
              onClick={() => id !== shown && onShow(id)}
            >
              {place + 1}
              {name && ` “${name}”`}
            </Action>
          </Tip>
        </span>
      ))}
      {" · "}
      <Action aria-expanded={isBeside} onClick={onBeside}>
        side by side
      </Action>
    </div>
  );
}

/** Hears a number that is typed, of two digits too: it is chosen once no further digit can come, or came in time. */
function useNumber(most: number, choose: (number: number) => void): (event: KeyboardEvent) => void {
  const typed = useRef<number>(undefined);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const newest = useRef(choose);
  newest.current = choose;
  useEffect(() => () => clearTimeout(timer.current), []);
  return (event) => {
    const key = keyIn("choice", event.nativeEvent);
    if (!key || event.target instanceof HTMLInputElement) return;
    event.preventDefault();
    event.stopPropagation();
    clearTimeout(timer.current);
    const { number, isWhole } = typedDigit(typed.current, key.at, most);
    typed.current = number;
    if (number === undefined) return;
    const take = () => {
      typed.current = undefined;
      newest.current(number);
    };
    if (isWhole) take();
    else timer.current = setTimeout(take, patience);
  };
}

function turnsAfter(what: "take" | "line", turns: number): string {
  const counted = turnsUpTo(turns, mostCounted);
  if (what === "line") return counted;
  return turns === 0 ? "nothing follows it" : `${counted} after it`;
}

/** What is done with the branch that begins with a message: it is named, or deleted once that was asked. */
export function BranchSentence({
  what,
  name,
  onName,
  onRemove,
}: {
  what: "take" | "line";
  name: string | null;
  onName: (name: string | null) => void;
  onRemove: () => Promise<boolean>;
}) {
  return (
    <>
      <span>
        called{" "}
        <TextValue
          label={`Name of this ${what}`}
          value={name ?? ""}
          placeholder="nothing yet"
          maxLength={80}
          onChange={(next) => onName(next.trim() === "" ? null : next.trim())}
        />
      </span>
      <ConfirmAction
        question={`Delete this ${what} with all that follows?`}
        says="It goes for good."
        does="Delete it for good"
        onDo={onRemove}
      >
        delete this {what}
      </ConfirmAction>
    </>
  );
}
