import { useEffect, useState } from "react";
import type { Fact } from "@/core/comparing/facts/facts";
import { findFacts } from "./find-facts";

/** The facts of several texts; undefined for one that has none yet. What was found last stays until there is more. */
export function useFacts(texts: readonly (string | undefined)[]): readonly (readonly Fact[] | undefined)[] {
  const [found, setFound] = useState<readonly (readonly Fact[] | undefined)[]>([]);
  const key = JSON.stringify(texts);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same texts in another list are the same
  useEffect(() => {
    let isNewest = true;
    void Promise.all(texts.map((text) => (text === undefined ? undefined : findFacts(text)))).then((facts) => {
      if (isNewest) setFound(facts);
    });
    return () => {
      isNewest = false;
    };
  }, [key]);
  return found;
}
