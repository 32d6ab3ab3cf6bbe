import { type KeyboardEvent, useRef, useState } from "react";
import { Action } from "../Action";
import { Field } from "./Field";

/** A secret that is typed once, and never shown again. */
export function SecretValue({
  label,
  asks,
  keeps,
  onChange,
}: {
  label: string;
  /** What opens its field, and what keeps what was typed. */
  asks: string;
  keeps: string;
  onChange: (secret: string) => void;
}) {
  const [typed, setTyped] = useState<string>();
  const opener = useRef<HTMLButtonElement>(null);
  const close = () => {
    setTyped(undefined);
    // the field is gone, and with it what had the focus
    requestAnimationFrame(() => opener.current?.focus());
  };
  const keep = () => {
    if (typed) onChange(typed);
    close();
  };
  const leave = () => {
    if (typed) onChange(typed);
    setTyped(undefined);
  };
  if (typed === undefined)
    return (
      <Action ref={opener} onClick={() => setTyped("")}>
        {asks}
      </Action>
    );
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key !== "Enter" && event.key !== "Escape") return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === "Enter") keep();
    else close();
  };
  return (
    <>
      <Field
        type="password"
        autoFocus
        aria-label={label}
        placeholder="the secret"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={leave}
        onKeyDown={onKeyDown}
      />{" "}
      {/* the field is left by neither */}
      <Action onMouseDown={(event) => event.preventDefault()} onClick={keep}>
        {keeps}
      </Action>{" "}
      <Action onMouseDown={(event) => event.preventDefault()} onClick={close}>
        cancel
      </Action>
    </>
  );
}
