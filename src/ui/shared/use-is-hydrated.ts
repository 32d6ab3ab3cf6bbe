import { useSyncExternalStore } from "react";

const never = () => () => {};

/** Whether the page hears what is done on it: not yet in the page as the server sends it, where a click would be lost. */
export function useIsHydrated(): boolean {
  return useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
}
