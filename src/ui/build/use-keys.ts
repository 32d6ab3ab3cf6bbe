import { useLayoutEffect, useRef, useState } from "react";

interface Actions {
  /** Alt+1 to Alt+6, from 0. */
  stations: (at: number) => void;
  escape: () => void;
  startNew: () => void;
}

/** Listens to the keys of Build; `?` shows the list of them. */
export function useKeys(actions: Actions): { isOpen: boolean; onClose: () => void } {
  const [isOpen, setOpen] = useState(false);
  const latest = useRef(actions);
  latest.current = actions;
  // before the first paint, so that no key is missed
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const types = event.target instanceof HTMLElement && /^(?:INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName);
      const digit = /^Digit([1-6])$/.exec(event.code)?.[1];
      if (event.altKey && digit) latest.current.stations(Number(digit) - 1);
      else if (event.altKey && event.code === "KeyN") latest.current.startNew();
      else if (event.key === "Escape" && !event.defaultPrevented) latest.current.escape();
      else if (event.key === "?" && !types) setOpen(true);
      else return;
      event.preventDefault();
    };
    document.addEventListener("keydown", onKey);
    return () => document.removeEventListener("keydown", onKey);
  }, []);
  return { isOpen, onClose: () => setOpen(false) };
}
