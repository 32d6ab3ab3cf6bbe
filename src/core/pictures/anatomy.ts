/** A picture's file in those parts of it that are the picture; what is told about it is in none of them. */
export interface Anatomy {
  parts: readonly Uint8Array[];
  /** Whether it has more than one frame. */
  isAnimated: boolean;
}

/** The bytes of parts, one after the other. */
export function joinedParts(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}

/** Four signs, as files name their chunks by. */
export function nameAt(bytes: Uint8Array, at: number): string {
  return String.fromCharCode(...bytes.subarray(at, at + 4));
}
