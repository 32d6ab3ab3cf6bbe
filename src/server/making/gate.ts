/** Lets so many calls of a provider go out at once; further ones wait their turn, in order. */
export class Gate {
  private readonly inside = new Map<string, number>();
  private readonly waiting = new Map<string, (() => void)[]>();

  /**
   * Enters, at once or when another leaves.
   * @param most calls at once; null for any number
   * @param onWait called where it has to be waited
   * @returns how to leave; undefined where `signal` ended the wait
   */
  async enter(
    name: string,
    most: number | null,
    onWait: () => void,
    signal: AbortSignal,
  ): Promise<(() => void) | undefined> {
    if (signal.aborted) return undefined;
    if (most !== null && (this.inside.get(name) ?? 0) >= most) {
      onWait();
      if (!(await this.turn(name, signal))) return undefined;
    } else this.inside.set(name, (this.inside.get(name) ?? 0) + 1);
    let isInside = true;
    return () => {
      if (isInside) this.leave(name);
      isInside = false;
    };
  }

  /** Waits for a place that is handed on; false where it was not waited for to the end. */
  private turn(name: string, signal: AbortSignal): Promise<boolean> {
    return new Promise((resolve) => {
      const line = this.waiting.get(name) ?? [];
      this.waiting.set(name, line);
      const go = () => {
        signal.removeEventListener("abort", giveUp);
        resolve(true);
      };
      const giveUp = () => {
        line.splice(line.indexOf(go), 1);
        resolve(false);
      };
      signal.addEventListener("abort", giveUp, { once: true });
      line.push(go);
    });
  }

  private leave(name: string): void {
    const next = this.waiting.get(name)?.shift();
    if (next) {
      next();
      return;
    }
    const left = (this.inside.get(name) ?? 1) - 1;
    if (left > 0) this.inside.set(name, left);
    else this.inside.delete(name);
  }
}
