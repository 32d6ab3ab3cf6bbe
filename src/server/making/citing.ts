import { CiteReader } from "@/core/sources/citing";
import type { Cited } from "@/core/sources/found";
import type { CitedIn } from "./types";

/** Marks of passages that a take did not have which are kept. */
const mostStray = 50;

/** What one take cites so far. */
class TakeCites implements CitedIn {
  readonly cites: Cited[];
  readonly strayMarks: string[];
  readonly reader = new CiteReader();

  constructor(before: CitedIn) {
    this.cites = [...before.cites];
    this.strayMarks = [...before.strayMarks];
  }
}

/**
 * Reads what takes cite while their text comes. A mark that is none of the passages that went along is a stray one;
 * where no passages did, brackets are nothing but brackets.
 */
export class Citing {
  private readonly byMark: ReadonlyMap<string, Cited>;
  private readonly takes = new Map<number, TakeCites>();

  /**
   * @param passages those that went along; undefined where the app has no documents
   * @param before what the rounds before cited: those had one take
   */
  constructor(
    private readonly passages: readonly Cited[] | undefined,
    private readonly before: CitedIn = citesNothing,
  ) {
    this.byMark = new Map(passages?.map((each) => [each.mark, each]));
  }

  /** Reads a further stretch of what a take says; gives the passages that it cites for the first time. */
  read(take: number, text: string): Cited[] {
    if (!this.passages) return [];
    const all = this.takes.get(take) ?? new TakeCites(this.before);
    this.takes.set(take, all);
    return all.reader.feed(text).flatMap(({ mark }) => {
      const passage = this.byMark.get(mark);
      if (passage && all.cites.every((each) => each.mark !== mark)) {
        all.cites.push(passage);
        return [passage];
      }
      if (!passage && all.strayMarks.length < mostStray && !all.strayMarks.includes(mark)) all.strayMarks.push(mark);
      return [];
    });
  }

  /** What a take cited in all. */
  of(take: number): CitedIn {
    const { cites, strayMarks } = this.takes.get(take) ?? this.before;
    return { cites, strayMarks };
  }
}

export const citesNothing: CitedIn = { cites: [], strayMarks: [] };
