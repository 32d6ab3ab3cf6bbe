import { type ReactNode, useState } from "react";

/** A word that copies a text, and then says whether the browser did. */
export function CopyWord({ text, children = "copy" }: { text: () => string; children?: ReactNode }) {
  const [said, setSaid] = useState<string>();
  const copy = () =>
    navigator.clipboard.writeText(text()).then(
      () => setSaid("copied"),
      () => setSaid("the browser did not copy it"),
    );
  return (
    <button type="button" className="link" onClick={copy}>
      {said ?? children}
    </button>
  );
}
