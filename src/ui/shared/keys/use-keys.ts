import { useEffect, useRef } from "react";
import { type Act, focusOf, KeyLayer } from "./key-layer";
import type { KeyOf, Scope } from "./table";

/** The one of this tab. */
export const keyLayer = new KeyLayer();

let isListening = false;

/** Listens to the keys of the page, once. */
function listen(): void {
  if (isListening) return;
  isListening = true;
  // after what has the focus has heard it
  window.addEventListener("keydown", (event) => keyLayer.handle(event, focusOf(document)));
}

/** Does something at the keys of a scope, for as long as this is shown. `close` is what Escape does where nothing is open. */
export function useKeys<S extends Scope>(scope: S, acts: Partial<Record<KeyOf<S> | "close", Act>>): void {
  const newest = useRef(acts);
  newest.current = acts;
  useEffect(() => {
    listen();
    return keyLayer.hear({ scope, act: (id) => newest.current[id as KeyOf<S>] });
  }, [scope]);
}
