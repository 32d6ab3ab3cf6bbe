type Listener = (conversation: string) => void;

/** Tells those who look at conversations that one of them changed otherwise than by a reply. Nothing of it is kept. */
export class Changes {
  private readonly listeners = new Set<Listener>();

  tell(conversation: string): void {
    for (const listener of this.listeners) listener(conversation);
  }

  /** Calls back at each change from now on; returns how to leave. */
  follow(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }
}
