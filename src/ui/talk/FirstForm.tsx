import { useState } from "react";
import { labelOf, longestValue } from "./asks";

/** What the app has to know before anything is said. */
export function FirstForm({ names, begin }: { names: string[]; begin: (values: Record<string, string>) => void }) {
  const [values, setValues] = useState<Record<string, string>>({});
  const isFilled = names.every((name) => (values[name] ?? "").trim() !== "");
  return (
    <form
      className="talk-form"
      aria-label="Before we begin"
      onSubmit={(event) => {
        event.preventDefault();
        if (isFilled) begin(Object.fromEntries(names.map((name) => [name, (values[name] ?? "").trim()])));
      }}
    >
      <p>Before we begin:</p>
      {names.map((name) => (
        <label key={name}>
          {labelOf(name)}
          <input
            type="text"
            value={values[name] ?? ""}
            maxLength={longestValue}
            dir="auto"
            onChange={(event) => setValues({ ...values, [name]: event.target.value })}
          />
        </label>
      ))}
      <button type="submit" disabled={!isFilled}>
        Begin
      </button>
    </form>
  );
}
