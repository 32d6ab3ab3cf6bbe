import { useCallback, useSyncExternalStore } from "react";
import { KeptTexts } from "./kept-texts";

/** The one of this tab. */
export const keptTexts = new KeptTexts(() => localStorage);

/** The text that is kept under a name. */
export function useKeptText(name: string): string {
  const subscribe = useCallback((listener: () => void) => keptTexts.subscribe(name, listener), [name]);
  return useSyncExternalStore(
    subscribe,
    () => keptTexts.read(name),
    () => "",
  );
}
