import { useState } from "react";
import { type Findings, useFindings, useRestingText } from "./use-sources";

/** What a question finds, and which question that is. */
export interface SceneFindings extends Findings {
  /** Whether it is one that is tried, and not what is typed or was said last. */
  tried: boolean;
  /** Whether it is what is typed: what it finds is what the next dispatch carries. */
  isTyped: boolean;
  /** Tries a question; with an empty one what is typed, or was said last, again. */
  onTry: (question: string) => void;
}

/** Characters that documents are looked through for: the first words of a message tell what it is about. */
const longest = 1_500;

/**
 * The question that the documents are looked through for: one that is tried, else the message that is typed, else the
 * last that was said.
 * @param last what was said last
 */
export function useQuestion(of: {
  slug: string;
  /** The name under which what is typed is kept. */
  textName: string;
  last: string;
  draft: string;
  isWanted: boolean;
}): SceneFindings {
  const [tried, setTried] = useState("");
  const typed = useRestingText(of.textName);
  const question = (tried || typed || of.last).slice(0, longest);
  const findings = useFindings(of.slug, question, of.draft, of.isWanted);
  return {
    ...findings,
    tried: tried !== "",
    isTyped: tried === "" && typed !== "",
    onTry: (next) => setTried(next.trim()),
  };
}
