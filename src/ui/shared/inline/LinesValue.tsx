import { Input } from "antd";
import styles from "./inline.module.css";
import type { Read } from "./taken";
import { useTyped } from "./use-typed";

/** A text of several lines, edited where it stands: it takes effect when it is left, or on Ctrl or Cmd with Enter. */
export function LinesValue({
  label,
  value,
  placeholder,
  rows = [3, 12],
  maxLength = 100_000,
  isCode = false,
  read = asTyped,
  onChange,
}: {
  label: string;
  value: string;
  placeholder?: string;
  /** Lines that are shown at least, and at most. */
  rows?: readonly [least: number, most: number];
  maxLength?: number;
  isCode?: boolean;
  read?: (text: string) => Read<string>;
  onChange: (value: string) => void;
}) {
  const {
    text,
    why,
    onChange: onType,
    onBlur,
    onKeyDown,
  } = useTyped({
    value,
    write: (text) => text,
    read,
    onTake: onChange,
    isLines: true,
  });
  const [minRows, maxRows] = rows;
  return (
    <>
      <Input.TextArea
        className={isCode ? styles.code : undefined}
        aria-label={label}
        aria-invalid={why ? true : undefined}
        autoSize={{ minRows, maxRows }}
        placeholder={placeholder}
        maxLength={maxLength}
        value={text}
        onChange={onType}
        onBlur={onBlur}
        onKeyDown={onKeyDown}
      />
      {why && (
        <small className={styles.why} role="alert">
          {why}
        </small>
      )}
    </>
  );
}

function asTyped(text: string): Read<string> {
  return { kind: "value", value: text };
}
