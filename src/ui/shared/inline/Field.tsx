import { type CSSProperties, type InputHTMLAttributes, type Ref, useId } from "react";
import styles from "./inline.module.css";

/** A field that stands in a sentence: as wide as its text, with what is wrong about that under it. */
export function Field({
  why,
  ref,
  ...field
}: InputHTMLAttributes<HTMLInputElement> & { value: string; why?: string; ref?: Ref<HTMLInputElement> }) {
  const id = useId();
  return (
    <span className={styles.field}>
      <input
        ref={ref}
        type="text"
        autoComplete="off"
        spellCheck={false}
        {...field}
        className={styles.value}
        style={wideAs(field.value || (field.placeholder ?? ""))}
        aria-invalid={why ? true : undefined}
        aria-describedby={why ? id : undefined}
      />
      {why && (
        <small id={id} className={styles.why} role="alert">
          {why}
        </small>
      )}
    </span>
  );
}

/** As wide as a text, where the browser can't see to that by itself. */
function wideAs(text: string): CSSProperties {
  return { "--characters": Math.max(text.length, 2) } as CSSProperties;
}
