import { useRef, useSyncExternalStore } from "react";

/** A state that several views read: it never changes, a new one takes its place. */
export class Store<S> {
  private readonly listeners = new Set<() => void>();

  constructor(private current: S) {}

  get state(): S {
    return this.current;
  }

  /** Puts another state in its place; the same one tells nobody. */
  set(next: S): void {
    if (next === this.current) return;
    this.current = next;
    for (const listener of this.listeners) listener();
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };
}

/**
 * What is selected of a state; it is shown anew only when that changes.
 * @param isSame tells whether two selections are the same; the one that was there stays then
 */
export function useStored<S, T>(
  store: Pick<Store<S>, "state" | "subscribe">,
  select: (state: S) => T,
  isSame: (a: T, b: T) => boolean = Object.is,
): T {
  const last = useRef<{ selected: T } | undefined>(undefined);
  const read = () => {
    const selected = select(store.state);
    if (!last.current || !isSame(last.current.selected, selected)) last.current = { selected };
    return last.current.selected;
  };
  return useSyncExternalStore(store.subscribe, read, read);
}

/** Whether two objects have the same members with the same values. */
export function sameMembers<T extends object>(a: T, b: T): boolean {
  if (a === b) return true;
  const names = Object.keys(a) as (keyof T)[];
  return names.length === Object.keys(b).length && names.every((name) => Object.is(a[name], b[name]));
}
