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
        const hadFocus = root.current?.contains(document.activeElement);
        close.current();
        if (hadFocus && opener instanceof HTMLElement)
          requestAnimationFrame(() => opener.isConnected && document.activeElement === document.body && opener.focus());
      },
    });
  }, [isOpen, root]);
}
