import type { Ref } from "react";
import { Field } from "./Field";

/** A text of a form that reads as a sentence: known at each keystroke, and used when the form is sent. */
export function FormText({
  label,
  value,
  placeholder,
  maxLength = 10_000,
  ref,
  onChange,
}: {
  label: string;
  value: string;
  placeholder?: string;
  maxLength?: number;
  ref?: Ref<HTMLInputElement>;
  onChange: (value: string) => void;
}) {
  return (
    <Field
      ref={ref}
      aria-label={label}
      value={value}
      placeholder={placeholder}
      maxLength={maxLength}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
