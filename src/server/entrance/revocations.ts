/** Ends what is being read under a token when that is revoked. */
export class Revocations {
  private readonly readers = new Map<string, Set<() => void>>();

  /** Has `end` called when a token is revoked; returns how to leave. */
  watch(token: string, end: () => void): () => void {
    const readers = this.readers.get(token) ?? new Set();
    this.readers.set(token, readers.add(end));
    return () => {
      readers.delete(end);
      if (readers.size === 0) this.readers.delete(token);
    };
  }

  /** A token was revoked. */
  tell(token: string): void {
    for (const end of [...(this.readers.get(token) ?? [])]) end();
  }
}

/** A parameter that has `revocations`. */
export interface HasRevocations {
  /** Ends what is read under a token that is revoked. */
  revocations: Revocations;
}
