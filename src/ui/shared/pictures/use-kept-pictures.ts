import { useCallback, useSyncExternalStore } from "react";
import { keptTexts } from "../use-kept-text";
import { type KeptPicture, KeptPictures } from "./kept-pictures";

/** Those of this tab. */
export const keptPictures = new KeptPictures(keptTexts);

const none: readonly KeptPicture[] = [];

/** The pictures that are kept beside a text. */
export function useKeptPictures(text: string): readonly KeptPicture[] {
  const subscribe = useCallback((listener: () => void) => keptPictures.subscribe(text, listener), [text]);
  return useSyncExternalStore(
    subscribe,
    () => keptPictures.read(text),
    () => none,
  );
}
