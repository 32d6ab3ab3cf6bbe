/** Milliseconds that a limit counts over. */
const window = 60_000;
/** Callers that are remembered at once; beyond them, the one that was quiet for longest is forgotten. */
const mostCallers = 20_000;

/** One limit: who is counted, and how many calls that one may make a minute. */
export interface Limit {
  who: string;
  aMinute: number | null;
}

/** Counts calls of the last minute, by visitor, address and app. Nothing of it is stored. */
export class Limits {
  private readonly calls = new Map<string, number[]>();

  /**
   * Takes one call, if all of its limits have room for it.
   * @param now milliseconds
   * @param weight calls that it counts as
   * @returns the limit that has none, and the seconds until it has; undefined where the call may go on
   */
  take(
    limits: readonly Limit[],
    now: number,
    weight = 1,
  ): { limit: Limit & { aMinute: number }; seconds: number } | undefined {
    const counted = limits.flatMap(({ who, aMinute }) => (aMinute === null ? [] : [{ who, aMinute }]));
    for (const limit of counted) {
      const lately = this.lately(limit.who, now);
      const over = lately.length + weight - limit.aMinute;
      if (over <= 0) continue;
      const blocking = lately[over - 1] ?? now;
      return { limit, seconds: Math.max(1, Math.ceil((blocking + window - now) / 1000)) };
    }
    for (const { who } of counted) for (let calls = 0; calls < weight; calls += 1) this.note(who, now);
    return undefined;
  }

  /** What a limit has left, and the whole seconds until it has all again. */
  left({ who, aMinute }: Limit & { aMinute: number }, now: number): { calls: number; seconds: number } {
    const lately = this.lately(who, now);
    const last = lately.at(-1);
    return {
      calls: Math.max(0, aMinute - lately.length),
      seconds: last === undefined ? 0 : Math.ceil((last + window - now) / 1000),
    };
  }

  private lately(who: string, now: number): number[] {
    const all = this.calls.get(who) ?? [];
    const first = all.findIndex((at) => at > now - window);
    if (first > 0) all.splice(0, first);
    else if (first < 0) all.length = 0;
    return all;
  }

  private note(who: string, now: number): void {
    const calls = this.calls.get(who) ?? [];
    calls.push(now);
    // what was used last stands last
    this.calls.delete(who);
    this.calls.set(who, calls);
    if (this.calls.size <= mostCallers) return;
    const [quietest] = this.calls.keys();
    if (quietest !== undefined) this.calls.delete(quietest);
  }
}

/** A parameter that has `limits`. */
export interface HasLimits {
  limits: Limits;
}
