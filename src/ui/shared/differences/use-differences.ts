import { useEffect, useRef, useState } from "react";
import type { Differences, Texts } from "@/core/comparing/differences";
import { compare } from "./compare";

/**
 * What differs between two texts. While they change, one pair is compared at a time and then the newest: what was
 * found last stays until there is more. Undefined until the first was found.
 */
export function useDifferences({ before, after, isExact }: Texts): Differences | undefined {
  const [found, setFound] = useState<Differences>();
  const newest = useRef<Texts>(undefined);
  const isBusy = useRef(false);
  useEffect(() => {
    newest.current = { before, after, isExact };
    const follow = async () => {
      while (newest.current) {
        const texts = newest.current;
        newest.current = undefined;
        setFound(await compare(texts));
      }
      isBusy.current = false;
    };
    if (isBusy.current) return;
    isBusy.current = true;
    void follow();
  }, [before, after, isExact]);
  return found;
}
