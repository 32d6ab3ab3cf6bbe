import { type RefObject, useEffect, useRef } from "react";
import { keyLayer } from "./use-keys";

/**
 * Makes something a layer that Escape closes, for as long as it is shown. What had the focus when it was opened gets it
 * back.
 * @param isOpen where it is shown also while it is closed
 */
export function useLayer(root: RefObject<HTMLElement | null>, onClose: () => void, isOpen = true): void {
  const close = useRef(onClose);
  close.current = onClose;
  useEffect(() => {
    if (!isOpen) return;
    const opener = document.activeElement;
    return keyLayer.open({
      root: () => root.current,
      close: () => {
        // before what has the focus goes away with it
        if (opener instanceof HTMLElement && root.current?.contains(document.activeElement)) opener.focus();
        close.current();
      },
    });
  }, [isOpen, root]);
}
