import { useCallback, useRef } from "react";

/** Does one thing after the other, in the order in which they came; one that fails keeps no other from its turn. */
export function useInTurn(): (work: () => Promise<void>) => void {
  const last = useRef(Promise.resolve());
  return useCallback((work) => {
    last.current = last.current.then(work, work);
  }, []);
}
