declare global {
  /** Counts what is drawn, where something that measures has put it there. */
  var finchDrawn: ((what: string) => void) | undefined;
}

/** Tells whoever measures that something was drawn. */
export function drawn(what: string): void {
  globalThis.finchDrawn?.(what);
}
