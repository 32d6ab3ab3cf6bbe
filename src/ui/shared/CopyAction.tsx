import { type ReactNode, useEffect, useState } from "react";
import { copyText } from "./copy-text";

/** Milliseconds for which it says what came of it. */
const saidFor = 4_000;

/** Copies a text, and then says for a moment whether the browser did. */
export function CopyAction({
  text,
  children = "copy",
  className = "link",
  said = { copied: "copied", failed: "the browser did not copy it" },
}: {
  text: () => string;
  children?: ReactNode;
  className?: string;
  said?: { copied: string; failed: string };
}) {
  const [outcome, setOutcome] = useState<keyof typeof said>();
  // until the script is there a click would be lost
  const [canCopy, setCanCopy] = useState(false);
  useEffect(() => setCanCopy(true), []);
  useEffect(() => {
    if (!outcome) return;
    const timer = setTimeout(() => setOutcome(undefined), saidFor);
    return () => clearTimeout(timer);
  }, [outcome]);
  const copy = async () => setOutcome((await copyText(text())) ? "copied" : "failed");
  return (
    <button type="button" className={className} disabled={!canCopy} onClick={() => void copy()}>
      {outcome ? said[outcome] : children}
    </button>
  );
}
