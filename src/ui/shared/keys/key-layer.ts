import { keyIn, type Scope } from "./table";

/** What is done at a key; `false` where nothing was, and the next may hear it. */
export type Act = (at: number) => unknown;

/** Who hears the keys of a scope. */
export interface Hearing {
  scope: Scope;
  act: (id: string) => Act | undefined;
}

/** Something that is open and can be closed: a station, a panel, a sheet. */
export interface Layer {
  root: () => HTMLElement | null;
  close: () => void;
}

type Heard = Pick<
  KeyboardEvent,
  "key" | "code" | "altKey" | "ctrlKey" | "metaKey" | "shiftKey" | "defaultPrevented" | "isComposing"
> & { preventDefault: () => void; stopPropagation: () => void };

/** Where the focus is, as far as keys are concerned. */
export interface Focus {
  element: Element | null;
  /** Whether something is written there. */
  isWriting: boolean;
  /** Whether a list or a dialog is open there which has keys of its own. */
  isBusy: boolean;
}

/**
 * The one owner of the keys that are heard in a whole view. Whoever handles a key ends it. Escape closes what the focus
 * is in, innermost first; else it does what the view does with it; else it closes what was opened last.
 */
export class KeyLayer {
  private readonly hearings: Hearing[] = [];
  private readonly layers: Layer[] = [];

  /** Hears keys; returns how to stop. */
  hear(hearing: Hearing): () => void {
    this.hearings.push(hearing);
    return () => remove(this.hearings, hearing);
  }

  /** Opens a layer; returns how to take it away. */
  open(layer: Layer): () => void {
    this.layers.push(layer);
    return () => remove(this.layers, layer);
  }

  handle(event: Heard, focus: Focus): void {
    if (event.defaultPrevented || event.isComposing || focus.isBusy) return;
    const isDone = event.key === "Escape" && !hasModifier(event) ? this.escape(focus) : this.act(event, focus);
    if (!isDone) return;
    event.preventDefault();
    event.stopPropagation();
  }

  private escape({ element }: Focus): boolean {
    const around = this.layers.filter(({ root }) => element !== null && root()?.contains(element));
    const innermost = around.find((layer) => around.every((other) => other.root()?.contains(layer.root())));
    if (innermost) return done(innermost);
    for (const { act } of this.hearings.toReversed()) {
      const close = act("close");
      if (close && close(0) !== false) return true;
    }
    const last = this.layers.at(-1);
    return last ? done(last) : false;
  }

  private act(event: Heard, { isWriting }: Focus): boolean {
    // where one writes, a sign is written
    if (isWriting && !event.altKey) return false;
    for (const { scope, act } of this.hearings.toReversed()) {
      const key = keyIn(scope, event);
      const does = key && act(key.id);
      if (does && does(key.at) !== false) return true;
    }
    return false;
  }
}

function done(layer: Layer): true {
  layer.close();
  return true;
}

function hasModifier({ altKey, ctrlKey, metaKey, shiftKey }: Heard): boolean {
  return altKey || ctrlKey || metaKey || shiftKey;
}

function remove<T>(list: T[], item: T): void {
  const at = list.indexOf(item);
  if (at >= 0) list.splice(at, 1);
}

/** Where the focus of a page is. */
export function focusOf(page: Document): Focus {
  const element = page.activeElement;
  const isWriting =
    element instanceof HTMLElement &&
    (element.isContentEditable ||
      element.matches("textarea, select, input:not([type=checkbox], [type=radio], [type=button])"));
  const isBusy =
    element?.getAttribute("role") === "combobox" && element.getAttribute("aria-expanded") === "true"
      ? true
      : page.querySelector('[role="dialog"][aria-modal="true"]:not([style*="display: none"])') !== null;
  return { element, isWriting, isBusy };
}
