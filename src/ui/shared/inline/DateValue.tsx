import styles from "./inline.module.css";
import type { Read } from "./taken";
import { useTyped } from "./use-typed";

/** A day, as `2026-07-14`, that is edited where it stands in a sentence. */
export function DateValue({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
}) {
  const {
    text,
    onChange: onType,
    onBlur,
    onKeyDown,
  } = useTyped({
    value,
    write: (day) => day,
    // what is not whole yet, and what is no day, stays as it was
    read: (day): Read<string> => ({ kind: "value", value: day === "" ? value : day }),
    onTake: onChange,
  });
  return (
    <input
      type="date"
      className={styles.day}
      aria-label={label}
      value={text}
      onChange={onType}
      onBlur={onBlur}
      onKeyDown={onKeyDown}
    />
  );
}
