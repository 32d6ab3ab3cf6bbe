/** What a person, or a caller, says to a call that waits for them. */
export type Said =
  /** It may be called, or not. */
  { kind: "leave"; isAllowed: boolean } | { kind: "answer"; result: string; hasFailed: boolean };

/** Whom a call waits for: leave from whoever is answered, an answer from the developer or from the caller who brought the tool. */
export type WaitsFor = "leave" | "hand" | "caller";

interface OpenCall {
  waitsFor: WaitsFor;
  settle: (said: Said) => void;
}

/** The calls of live replies that wait for a person or a caller, by the reply and the id of the call. */
export class OpenCalls {
  private readonly open = new Map<string, OpenCall>();

  /**
   * Waits for what is said to a call.
   * @param limit milliseconds after which it waits no longer
   * @returns undefined where nothing was said in time, or it was aborted
   */
  async wait(
    of: { reply: string; call: string; waitsFor: WaitsFor },
    limit: number,
    signal: AbortSignal,
  ): Promise<Said | undefined> {
    const key = keyOf(of);
    let leave = () => {};
    try {
      return await new Promise<Said | undefined>((resolve) => {
        const timer = setTimeout(() => resolve(undefined), limit);
        const abort = () => resolve(undefined);
        signal.addEventListener("abort", abort, { once: true });
        leave = () => {
          clearTimeout(timer);
          signal.removeEventListener("abort", abort);
        };
        if (signal.aborted) abort();
        this.open.set(key, { waitsFor: of.waitsFor, settle: resolve });
      });
    } finally {
      leave();
      this.open.delete(key);
    }
  }

  /** Whom a call waits for; undefined where it waits for nobody. */
  waitsFor(of: { reply: string; call: string }): WaitsFor | undefined {
    return this.open.get(keyOf(of))?.waitsFor;
  }

  /** Says something to a call that waits; the first one counts. */
  say(of: { reply: string; call: string }, said: Said): void {
    const key = keyOf(of);
    this.open.get(key)?.settle(said);
    this.open.delete(key);
  }
}

function keyOf({ reply, call }: { reply: string; call: string }): string {
  return `${reply} ${call}`;
}

/** A parameter that has `openCalls`. */
export interface HasOpenCalls {
  openCalls: OpenCalls;
}
