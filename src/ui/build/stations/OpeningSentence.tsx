import { Input } from "antd";
import { useState } from "react";
import type { Content } from "@/core/revision/content";
import { Action } from "../../shared/Action";
import { many } from "../../shared/format";
import { Unfolds } from "../../shared/inline/Unfolds";
import styles from "./stations.module.css";

type Opening = NonNullable<Content["opening"]>;

const most = 10;

/** The fixed turns before every conversation, unfolded to be written. What is not whole yet is kept here, not in the draft. */
export function OpeningSentence({
  opening = [],
  app,
  onChange,
}: {
  opening?: Opening;
  app: string;
  onChange: (opening: Opening | undefined) => void;
}) {
  const [isOpen, setOpen] = useState(false);
  const [turns, setTurns] = useState(opening);
  const change = (next: Opening) => {
    setTurns(next);
    const whole = next.filter(({ visitor, app }) => visitor.trim() !== "" && app.trim() !== "");
    onChange(whole.length > 0 ? whole : undefined);
  };
  const set = (at: number, part: Partial<Opening[0]>) =>
    change(turns.map((turn, place) => (place === at ? { ...turn, ...part } : turn)));
  return (
    <>
      <Unfolds
        isOpen={isOpen}
        onClick={() => {
          setTurns(opening);
          setOpen(!isOpen);
        }}
      >
        {opening.length === 0 ? "No fixed turn" : many(opening.length, "fixed turn")}
      </Unfolds>{" "}
      {opening.length > 1 ? "go" : "goes"} before each conversation.
      {isOpen && (
        <div className={styles.opening}>
          {turns.map((turn, at) => (
            <div key={at}>
              <Input.TextArea
                aria-label={`Opening, turn ${at + 1}, visitor`}
                placeholder="A visitor says"
                autoSize={{ minRows: 1, maxRows: 6 }}
                maxLength={10_000}
                value={turn.visitor}
                onChange={(event) => set(at, { visitor: event.target.value })}
              />
              <Input.TextArea
                aria-label={`Opening, turn ${at + 1}, ${app}`}
                placeholder={`${app} answers`}
                autoSize={{ minRows: 1, maxRows: 6 }}
                maxLength={10_000}
                value={turn.app}
                onChange={(event) => set(at, { app: event.target.value })}
              />
              <Action
                aria-label={`Take turn ${at + 1} of the opening away`}
                onClick={() => change(turns.filter((_, place) => place !== at))}
              >
                delete
              </Action>
            </div>
          ))}
          {turns.length < most && (
            <Action onClick={() => change([...turns, { visitor: "", app: "" }])}>add a turn</Action>
          )}
        </div>
      )}
    </>
  );
}
