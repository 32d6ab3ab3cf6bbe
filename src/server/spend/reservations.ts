/** What of the money of a day is held for calls under way, by app. Nothing of it is stored: a call that is cut off by a stop of the server is paid for as far as it was counted. */
export class Reservations {
  private readonly held = new Map<string, number>();

  /** Millionths that are held for an app. */
  of(app: string): number {
    return this.held.get(app) ?? 0;
  }

  /** Holds some; gives how to let go of it, once. */
  hold(app: string, millionths: number): () => void {
    this.held.set(app, this.of(app) + millionths);
    let isHeld = true;
    return () => {
      if (!isHeld) return;
      isHeld = false;
      const left = this.of(app) - millionths;
      if (left > 0) this.held.set(app, left);
      else this.held.delete(app);
    };
  }
}

/** A parameter that has `reservations`. */
export interface HasReservations {
  reservations: Reservations;
}
