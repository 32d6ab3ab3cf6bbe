import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";

interface Actions {
  /** Alt+1 to Alt+6, from 0. */
  stations: (at: number) => void;
  escape: () => void;
  startNew: () => void;
  /** Goes to the next place above or below where lines part. */
  toFork: (steps: -1 | 1) => void;
  /** Opens what says the conversation again. */
  sayAgain: () => void;
  /** Asks for another take of the last reply. */
  another: () => void;
}

// the keys of Build work while a message is written, too
const everywhere = { enableOnFormTags: true, preventDefault: true } as const;

/** Listens to the keys of Build; `?` shows the list of them. */
export function useKeys(actions: Actions): { isOpen: boolean; onClose: () => void } {
  const [isOpen, setOpen] = useState(false);
  useHotkeys(
    "alt+1,alt+2,alt+3,alt+4,alt+5,alt+6",
    ({ code }) => actions.stations(Number(code.at(-1)) - 1),
    everywhere,
  );
  useHotkeys("alt+up", () => actions.toFork(-1), everywhere);
  useHotkeys("alt+down", () => actions.toFork(1), everywhere);
  useHotkeys("alt+a", actions.another, everywhere);
  useHotkeys("alt+g", actions.sayAgain, everywhere);
  useHotkeys("alt+n", actions.startNew, everywhere);
  useHotkeys("escape", actions.escape, { ...everywhere, ignoreEventWhen: ({ defaultPrevented }) => defaultPrevented });
  useHotkeys("?", () => setOpen(true), { useKey: true, preventDefault: true });
  return { isOpen, onClose: () => setOpen(false) };
}
