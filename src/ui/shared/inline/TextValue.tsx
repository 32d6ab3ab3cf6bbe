import { Field } from "./Field";
import type { Read } from "./taken";
import { useTyped } from "./use-typed";

/** A short text that is edited where it stands in a sentence. */
export function TextValue({
  label,
  value,
  placeholder,
  maxLength = 10_000,
  read = asTyped,
  onChange,
}: {
  label: string;
  value: string;
  /** What stands there when there is no text. */
  placeholder?: string;
  maxLength?: number;
  /** Reads what is typed, where not every text will do. */
  read?: (text: string) => Read<string>;
  onChange: (value: string) => void;
}) {
  const { text, why, onChange: onType, onBlur, onKeyDown } = useTyped({ value, write, read, onTake: onChange });
  return (
    <Field
      aria-label={label}
      value={text}
      placeholder={placeholder}
      maxLength={maxLength}
      why={why}
      onChange={onType}
      onBlur={onBlur}
      onKeyDown={onKeyDown}
    />
  );
}

function write(text: string): string {
  return text;
}

function asTyped(text: string): Read<string> {
  return { kind: "value", value: text };
}
