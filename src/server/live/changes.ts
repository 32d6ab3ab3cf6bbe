/** What changed: a conversation or a comparison otherwise than by a reply, an app or its draft, or how far jobs are. */
export type Change =
  | { event: "changed"; data: { conversation: string } }
  | { event: "app"; data: { slug: string; draftHash: string } }
  | { event: "jobs"; data: object };
type Listener = (change: Change) => void;

/** Tells those who look at it what changed. Nothing of it is kept. */
export class Changes {
  private readonly listeners = new Set<Listener>();

  /** @param conversation the id of one, of a comparison or of a run; the address of an app whose scripts changed */
  tell(conversation: string): void {
    this.send({ event: "changed", data: { conversation } });
  }

  tellApp(slug: string, draftHash: string): void {
    this.send({ event: "app", data: { slug, draftHash } });
  }

  tellJobs(): void {
    this.send({ event: "jobs", data: {} });
  }

  /** Calls back at each change from now on; returns how to leave. */
  follow(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  private send(change: Change): void {
    for (const listener of this.listeners) listener(change);
  }
}

/** A parameter that has `changes`. */
export interface HasChanges {
  changes: Changes;
}
