import { type KeyboardEvent, useRef } from "react";
import { Action } from "../Action";
import { Field } from "./Field";
import styles from "./inline.module.css";
import { readNumber, stepped } from "./taken";
import { useTyped } from "./use-typed";

interface Props {
  label: string;
  value: number | undefined;
  min: number;
  max: number;
  /** What the arrow keys go by; a number with places means that others may have them too. */
  step?: number;
  /**
   * What stands there when there is no number. Emptying the field is how none is chosen, unless that has a name: for a
   * limit of something live there is no number only where that was chosen by it. `stays` is for what can't be taken back.
   */
  none?: { said: string; choose?: string; stays?: boolean };
  onChange: (value: number | undefined) => void;
}

/** A number that is edited where it stands in a sentence. */
export function NumberValue({ label, value, min, max, step = 1, none, onChange }: Props) {
  const isWhole = Number.isInteger(step) && Number.isInteger(min);
  const empty = none && !none.choose && !none.stays ? "none" : "before";
  const typed = useTyped<number | undefined>({
    value,
    write: (number) => (number === undefined ? "" : String(number)),
    read: (text) => readNumber(text, value, { min, max, isWhole, empty }),
    onTake: onChange,
  });
  const field = useRef<HTMLInputElement>(null);
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const by = { ArrowUp: 1 as const, ArrowDown: -1 as const }[event.key];
    if (by === undefined || event.altKey) return typed.onKeyDown(event);
    event.preventDefault();
    typed.setText(stepped(typed.text, step, by, { min, max }));
  };
  return (
    <span className={styles.withNone}>
      <Field
        ref={field}
        role="spinbutton"
        inputMode={isWhole ? "numeric" : "decimal"}
        aria-label={label}
        aria-valuenow={value}
        aria-valuemin={min}
        aria-valuemax={max}
        aria-valuetext={value === undefined ? none?.said : undefined}
        placeholder={none?.said}
        value={typed.text}
        why={typed.why}
        onChange={typed.onChange}
        onBlur={typed.onBlur}
        onKeyDown={onKeyDown}
      />
      {none?.choose && value !== undefined && (
        <small>
          {" "}
          or{" "}
          <Action
            aria-label={`${none.choose}: ${label}`}
            // it stands there while the field has the focus
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => {
              field.current?.focus();
              onChange(undefined);
            }}
          >
            {none.choose}
          </Action>
        </small>
      )}
    </span>
  );
}
