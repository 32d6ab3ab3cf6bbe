import { Input, InputNumber, Select } from "antd";
import { type ComponentRef, type CSSProperties, useRef, useState } from "react";
import styles from "./words.module.css";

/** As wide as its text, where the browser can't see to that by itself. */
function inLine(text: string): CSSProperties {
  return { "--characters": Math.max(text.length, 2) } as CSSProperties;
}

/** A number that is edited where it stands in a sentence; empty where it may be left to the provider. */
export function NumberWord({
  label,
  value,
  min,
  max,
  step = 1,
  empty,
  onChange,
}: {
  label: string;
  value: number | undefined;
  min: number;
  max: number;
  step?: number;
  /** What stands there when there is no value. */
  empty?: string;
  onChange: (value: number | undefined) => void;
}) {
  const shown = value === undefined ? (empty ?? "") : String(value);
  return (
    <InputNumber<number>
      className={styles.word}
      style={inLine(shown)}
      aria-label={label}
      variant="borderless"
      controls={false}
      value={value ?? null}
      placeholder={empty}
      min={min}
      max={max}
      step={step}
      onChange={(next) => {
        if (next !== null) onChange(next);
        else if (empty !== undefined) onChange(undefined);
      }}
    />
  );
}

/**
 * A number of something live, in a sentence: it is kept on Enter, or when its field is left. One that was emptied or
 * left by Escape stays as it was; that there is none is chosen.
 */
export function KeptNumberWord({
  label,
  value,
  min,
  max,
  step = 1,
  none,
  onKeep,
}: {
  label: string;
  value: number | undefined;
  min: number;
  max: number;
  step?: number;
  /** What stands there when there is no value, and how it is chosen that there is none. */
  none?: { said: string; choose: string };
  onKeep: (value: number | undefined) => void;
}) {
  const holds = value ?? null;
  const [typed, setTyped] = useState(holds);
  const [from, setFrom] = useState(holds);
  if (from !== holds) {
    setFrom(holds);
    setTyped(holds);
  }
  // a field that is left tells what it holds before it tells that it is left
  const newest = useRef(typed);
  const type = (next: number | null) => {
    newest.current = next;
    setTyped(next);
  };
  const keep = () => {
    const next = newest.current;
    if (next === null) type(holds);
    else if (next !== holds) onKeep(next);
  };
  const field = useRef<ComponentRef<typeof InputNumber>>(null);
  return (
    <span className={styles.kept}>
      <InputNumber<number>
        ref={field}
        className={styles.word}
        style={inLine(typed === null ? (none?.said ?? "") : String(typed))}
        aria-label={label}
        variant="borderless"
        controls={false}
        value={typed}
        placeholder={none?.said}
        min={min}
        max={max}
        step={step}
        onFocus={() => {
          newest.current = typed;
        }}
        onChange={type}
        onBlur={keep}
        onPressEnter={keep}
        onKeyDown={(event) => {
          if (event.key !== "Escape") return;
          event.preventDefault();
          type(holds);
        }}
      />
      {none && value !== undefined && (
        <small>
          {" "}
          or{" "}
          <button
            type="button"
            className="link"
            aria-label={`${none.choose}: ${label}`}
            // it stands there while the field has the focus
            onMouseDown={(event) => event.preventDefault()}
            onClick={() => {
              field.current?.focus();
              type(null);
              onKeep(undefined);
            }}
          >
            {none.choose}
          </button>
        </small>
      )}
    </span>
  );
}

/** A question before something is deleted for good. */
export function AskedTwice({
  question,
  does,
  onDo,
  onCancel,
}: {
  question: string;
  /** What it does, as its button says it. */
  does: string;
  onDo: () => void;
  onCancel: () => void;
}) {
  return (
    <span role="alertdialog" aria-label={question}>
      {question}{" "}
      <button
        type="button"
        className="link"
        ref={focusOnce}
        onClick={onDo}
        onKeyDown={(event) => {
          if (event.key !== "Escape") return;
          event.preventDefault();
          onCancel();
        }}
      >
        {does}
      </button>
      {" · "}
      <button type="button" className="link" onClick={onCancel}>
        cancel
      </button>
    </span>
  );
}

/** Takes the focus to what was asked for just now. */
function focusOnce(element: HTMLElement | null): void {
  element?.focus();
}

/** A choice that is made where it stands in a sentence. */
export function ChoiceWord({
  label,
  value,
  options,
  isSearched = false,
  onChange,
}: {
  label: string;
  value: string;
  /** Whether there are so many that one types to find one. */
  isSearched?: boolean;
  /** Each with how it is called in the list, and in the sentence where that is other. */
  options: { value: string; label: string; said?: string }[];
  onChange: (value: string) => void;
}) {
  const said = options.find((option) => option.value === value)?.said;
  return (
    <Select
      className={styles.word}
      aria-label={label}
      variant="borderless"
      suffixIcon={null}
      popupMatchSelectWidth={false}
      value={value}
      options={options}
      showSearch={isSearched}
      labelRender={said === undefined ? undefined : () => said}
      onChange={onChange}
    />
  );
}

/** A short text that is edited where it stands in a sentence. */
export function TextWord({
  label,
  value,
  placeholder,
  onChange,
  onDone,
}: {
  label: string;
  value: string;
  placeholder?: string;
  onChange: (value: string) => void;
  onDone?: () => void;
}) {
  return (
    <Input
      className={styles.word}
      style={inLine(value || (placeholder ?? ""))}
      aria-label={label}
      variant="borderless"
      value={value}
      placeholder={placeholder}
      onChange={(event) => onChange(event.target.value)}
      onBlur={onDone}
      onPressEnter={onDone}
    />
  );
}

/** A text that is kept when its field is left. */
export function KeptWord({
  label,
  value,
  placeholder,
  onKeep,
}: {
  label: string;
  value: string;
  placeholder?: string;
  onKeep: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  const [from, setFrom] = useState(value);
  if (from !== value) {
    setFrom(value);
    setText(value);
  }
  return (
    <TextWord
      label={label}
      value={text}
      placeholder={placeholder}
      onChange={setText}
      onDone={() => text !== value && onKeep(text)}
    />
  );
}
