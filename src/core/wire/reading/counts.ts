import type { ReadEvent, TokenCounts } from "../../reply/events";
import { countIn } from "../../tokens/count";
import { excerpt, written } from "../json";
import type { Standing } from "./standing";

/** Where the counts of tokens stand. */
export interface CompiledUsage extends Partial<Record<keyof TokenCounts, Standing>> {
  /** Whether counts of several events are added up; else the last counts. */
  adds: boolean;
  /** Whether the input is counted without what was in the cache or put there. */
  cacheIsBeside?: boolean;
}

const names = ["input", "output", "cachedInput", "cacheWrite", "thought"] as const;

/** The counts of tokens of one answer. */
export class Counted {
  private counts: Partial<TokenCounts> = {};
  private isCacheBeside = false;
  private readonly leftOut = new Set<string>();

  /** Takes the counts that stand in a document. */
  read(usage: CompiledUsage, take: number | null, at: unknown, events: ReadEvent[]): void {
    this.isCacheBeside ||= usage.cacheIsBeside ?? false;
    for (const name of names) {
      const value = usage[name]?.first(at);
      if (value === undefined || value === null) continue;
      this.put(name, value, usage.adds ? (this.counts[name] ?? 0) : 0, take, events);
    }
  }

  /** Takes the counts that stand in the headers of an answer, where no document had them. */
  readHeaders(usage: CompiledUsage, headers: Readonly<Record<string, string>>, events: ReadEvent[]): void {
    for (const name of names) {
      const value = this.counts[name] === undefined ? usage[name]?.inHeaders(headers) : undefined;
      if (value !== undefined) this.put(name, value.trim(), 0, null, events);
    }
  }

  get isEmpty(): boolean {
    return Object.keys(this.counts).length === 0;
  }

  /** All counts, those of the input for all of it. */
  all(): Partial<TokenCounts> {
    const { input, cachedInput = 0, cacheWrite = 0 } = this.counts;
    if (!this.isCacheBeside || input === undefined) return this.counts;
    return { ...this.counts, input: countIn(input + cachedInput + cacheWrite) ?? input };
  }

  private put(name: keyof TokenCounts, value: unknown, before: number, take: number | null, events: ReadEvent[]): void {
    const counted = countIn(value);
    const sum = counted === undefined ? undefined : countIn(counted + before);
    if (sum !== undefined) this.counts[name] = sum;
    else if (!this.leftOut.has(name)) {
      this.leftOut.add(name);
      events.push({ event: "left-out", take, data: { count: name, found: excerpt(written(value)) } });
    }
  }
}
