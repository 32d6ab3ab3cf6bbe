import { useEffect, useMemo, useRef, useState } from "react";
import type { Differences } from "@/core/comparing/parts";
import { type Answer, compare, type Question } from "./compare";

/**
 * What differs, by a question that stays the same object for as long as it is the same. While it changes, one is
 * answered at a time and then the newest: what was found last stays until there is more.
 * @returns undefined until the first was found
 */
export function useCompared<Q extends Question>(question: Q): Answer<Q> | undefined {
  const [found, setFound] = useState<Answer<Q>>();
  const newest = useRef<Q>(undefined);
  const isBusy = useRef(false);
  useEffect(() => {
    newest.current = question;
    const follow = async () => {
      while (newest.current) {
        const next = newest.current;
        newest.current = undefined;
        setFound(await compare(next));
      }
      isBusy.current = false;
    };
    if (isBusy.current) return;
    isBusy.current = true;
    void follow();
  }, [question]);
  return found;
}

/** What differs between two texts as they are written. */
export function useDifferences(before: string, after: string): Differences | undefined {
  return useCompared(useMemo(() => ({ kind: "words" as const, before, after }), [before, after]));
}
