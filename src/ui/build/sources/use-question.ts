import { useState } from "react";
import { type Findings, useFindings, useRestingText } from "./use-sources";

/** What questions find: the next message, and one that is tried. */
export interface SceneFindings {
  /** Of what is typed, else of a question that is tried, else of what was said last: the forecast goes by it. */
  next: Findings;
  /** Whether `next` is of what is typed: what it finds is what the next dispatch carries. */
  isTyped: boolean;
  /** Of the question that is tried, where one is, else `next`. */
  shown: Findings;
  isTried: boolean;
  /** Tries a question; with an empty one what is typed, or was said last, again. */
  onTry: (question: string) => void;
}

/** Characters that documents are looked through for: the first words of a message tell what it is about. */
const longest = 1_500;

/**
 * What the documents are looked through for.
 * @param last what was said last
 */
export function useQuestion(of: {
  slug: string;
  /** The name under which what is typed is kept. */
  textName: string;
  last: string;
  draft: string;
  isWanted: boolean;
  /** Whether some documents go along whole, whatever is asked. */
  hasWholes: boolean;
}): SceneFindings {
  const [tried, setTried] = useState("");
  const typed = useRestingText(of.textName, of.isWanted);
  const { draft, isWanted, hasWholes } = of;
  const find = (question: string) => ({ question: question.slice(0, longest), draft, isWanted, hasWholes });
  const next = useFindings(of.slug, find(typed || tried || of.last));
  const shown = useFindings(of.slug, find(tried || typed || of.last));
  return {
    next,
    isTyped: typed !== "",
    shown,
    isTried: tried !== "",
    onTry: (question) => setTried(question.trim()),
  };
}
