import type { Pinned } from "@/core/context/assemble";
import type { Memory } from "@/core/context/policies/policies";
import type { Reach } from "@/core/context/reach";
import { askForSummary, batch, usualSummaryPrompt } from "@/core/context/sum-up";
import type { SummaryAtHand } from "@/core/context/summary";
import type { Candidate } from "@/core/reply/events";
import { tokensOfCounts } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { priceOf } from "@/core/tokens/price";
import type { StoredModel } from "../providers/provider-store";

/** Stands for a summary that is not made yet: as many words as the usual prompt asks for. */
const words = "summary ".repeat(120).trim();

/**
 * The summaries that a line would make if it were said, turn by turn: what they cover, and what they take. Each is
 * reckoned as long as the usual prompt asks for.
 */
export class ForeseenSummaries {
  /** The newest, as the next message would carry it. */
  newest: (SummaryAtHand & { text: string }) | undefined;
  readonly sum = { count: 0, input: 0, output: 0, price: 0 };
  /** Answered turns that no summary covers yet, in order. */
  private uncovered: Pinned[] = [];

  /**
   * @param model the one that sums up
   * @param by who answers
   */
  constructor(
    private readonly memory: Extract<Memory, { kind: "summary" }>,
    private readonly model: StoredModel,
    private readonly by: Candidate,
  ) {}

  /** Takes the turn that was answered last. @param reach what its reply was made from */
  answered(turn: Pinned, reach: Reach | undefined): void {
    this.uncovered.push(turn);
    const isLeftOut = leftOutUpTo(reach) >= (this.uncovered[0]?.visitor.turn ?? Number.POSITIVE_INFINITY);
    for (let isFirst = true; ; isFirst = false) {
      const older = this.uncovered.slice(0, -this.memory.turns);
      if (older.length === 0 || (isFirst && older.length < batch && !isLeftOut)) return;
      if (!this.sumUp(older)) return;
    }
  }

  /** Makes the next one of some turns; false where the model has no room for any. */
  private sumUp(turns: readonly Pinned[]): boolean {
    const { calibration, window, price } = this.model;
    const prompt = this.memory.prompt ?? usualSummaryPrompt;
    const asked = askForSummary({ prompt, before: this.newest?.text ?? null, turns, window, calibration });
    const last = asked && turns[asked.count - 1];
    if (!last) return false;
    const counts = countsOf(words);
    const usage = { input: asked.tokens, output: Math.round(tokensOfCounts(counts, calibration)) };
    this.sum.count += 1;
    this.sum.input += usage.input;
    this.sum.output += usage.output;
    this.sum.price += priceOf(usage, price);
    const { id, turn } = last.reply;
    this.newest = { id, turn, counts, clear: null, by: this.memory.apart ? this.by : null, leftOut: [], text: words };
    this.uncovered = this.uncovered.slice(asked.count);
    return true;
  }
}

/** The last turn that was out of a reach, of those that could have been carried; 0 where none was. */
function leftOutUpTo(reach: Reach | undefined): number {
  return reach?.track.turns[reach.from - 1]?.number ?? 0;
}
