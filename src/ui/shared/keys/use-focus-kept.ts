import { type RefObject, useEffect } from "react";

/** What can have the focus. */
const focusable =
  'a[href], button:not(:disabled), input:not(:disabled), textarea:not(:disabled), [tabindex]:not([tabindex="-1"])';

/**
 * Keeps the focus in a view: where what had it goes away (a row that is shown anew, an editor that is closed, something
 * that was deleted), it goes to what took the place of that, by the name in `data-focus`, else to what is left of
 * where it stood, else to what is marked as `data-focus="home"`. What is marked as `data-focus="own"` sees to its focus
 * itself, such as a list of which only what is on the screen is drawn.
 */
export function useFocusKept(view: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    const { current } = view;
    if (!current) return;
    /** What had the focus last, and all that it stood in, inmost first, with their names. */
    let trail: { element: HTMLElement; name: string | undefined }[] = [];
    const remember = ({ target }: FocusEvent) => {
      trail = [];
      for (let at = target as HTMLElement | null; at && at !== current; at = at.parentElement)
        trail.push({ element: at, name: at.dataset.focus });
    };
    const forget = ({ relatedTarget, target }: FocusEvent) => {
      const left = trail;
      const drop = () => {
        if (trail === left) trail = [];
      };
      if (relatedTarget !== null) drop();
      // one that is taken away is left, too: only one that is still there afterwards was left by whoever works here
      else setTimeout(() => (target as HTMLElement).isConnected && drop(), 0);
    };
    const giveBack = () => {
      const [lost] = trail;
      if (!lost || lost.element.isConnected || document.activeElement !== document.body) return;
      const next = heirOf(current, trail);
      trail = [];
      next?.focus({ preventScroll: true });
    };
    const observer = new MutationObserver(giveBack);
    observer.observe(current, { childList: true, subtree: true });
    current.addEventListener("focusin", remember);
    current.addEventListener("focusout", forget);
    return () => {
      observer.disconnect();
      current.removeEventListener("focusin", remember);
      current.removeEventListener("focusout", forget);
    };
  }, [view]);
}

/** Gives the focus to an element, or where that is gone to what a view is about. */
export function giveFocus(element: HTMLElement | null): void {
  const home = document.querySelector<HTMLElement>('main [data-focus="home"]') ?? document.querySelector("main");
  const heir = element?.isConnected ? element : home && within(home);
  heir?.focus({ preventScroll: true });
}

function heirOf(view: HTMLElement, trail: readonly { element: HTMLElement; name: string | undefined }[]) {
  for (const { element, name } of trail) {
    if (name === "own") return undefined;
    const named = name === undefined ? null : view.querySelector<HTMLElement>(`[data-focus="${CSS.escape(name)}"]`);
    const place = named ?? (element.isConnected ? element : null);
    const heir = place && within(place);
    if (heir) return heir;
  }
  const home = view.querySelector<HTMLElement>('[data-focus="home"]');
  return home && within(home);
}

/** What takes the focus of a place: itself, what is chosen in it, or the first that can have it and is seen. */
function within(place: HTMLElement): HTMLElement | undefined {
  if (place.matches(focusable)) return place;
  const all = [...place.querySelectorAll<HTMLElement>(focusable)].filter((each) => each.checkVisibility());
  return all.find((each) => each.getAttribute("aria-current") === "true") ?? all[0];
}
