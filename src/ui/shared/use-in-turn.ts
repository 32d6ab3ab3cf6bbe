import { useCallback, useRef } from "react";

/** Does one thing after the other, in the order in which they came; what fails says so itself. */
export function useInTurn(): (work: () => Promise<void>) => void {
  const last = useRef(Promise.resolve());
  return useCallback((work) => {
    last.current = last.current.then(work);
  }, []);
}
