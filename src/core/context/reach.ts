import { marginOf, tokensOf } from "../tokens/calibration";
import { apartFrom, type Counts, type Holding, noHolding, together } from "../tokens/counts";
import { policyOf } from "./policies/policies";
import type { Reason } from "./reason";
import { isAnswer, type PinnedTurn } from "./row";
import { fittingSummary, type SummaryAtHand } from "./summary";
import { holdingOf, isBy, type Track, type TrackedTurn, tokensOfRow } from "./track";
import { asText, headHolding } from "./transcript";

/** What stands in a dispatch beside the line. */
export interface Parts {
  /** The filled system prompt; null where it is empty. */
  prompt: Counts | null;
  /** The fixed turns before the conversation. */
  opening: readonly { visitor: Counts; app: Counts }[];
  /** The message that is written now, where it is no row yet. */
  message: Counts | null;
}

/** What a dispatch can hold. */
export interface Room {
  /** The model's context window, in tokens. */
  window: number;
  /** Tokens that are kept for the reply, where that is limited. */
  maxOutput?: number;
}

/** A part of a context, all of it carried or not. */
export interface Part {
  tokens: number;
  carried: boolean;
  reason: Reason;
}

/** All that the next dispatch carries; its parts are one sum. */
export interface Reach {
  track: Track;
  prompt: number;
  /** Null where there is none. */
  opening: Part | null;
  summary: (Part & { id: string; turn: number }) | null;
  /** Pinned turns that are not among the newest that are carried, by the visitor's message. */
  pins: Map<string, Part>;
  /** The newest turns that are carried, those that are not at hand included. */
  turns: { tokens: number; messages: number; turns: number };
  /** All that is remembered: summary, pins and turns. */
  remembered: number;
  /** Of the message that is answered, or written now. */
  message: number;
  /** All of it. */
  tokens: number;
  /** Tokens that the estimate may be off by to either side. */
  margin: number;
  /** What all of it holds, which calibration learns from. */
  holding: Holding;
  /** Tokens that are too many for the window, with the margin; 0 where all of it fits. */
  excess: number;
  /** Where in the turns of the track those begin that are carried. */
  from: number;
  above: Above;
  limits: Limits;
}

/** Tokens that all that is remembered may have, and those that all of it may have with its margin. */
interface Limits {
  budget: number;
  ceiling: number;
}

/** The answered turns above the rows that are at hand. */
export interface Above {
  /** What becomes of it; `unknown` where more rows would have to be seen first. */
  fate: "none" | "carried" | "left out" | "unknown";
  tokens: number;
  messages: number;
}

/**
 * What of a line the next dispatch carries. Turns are the unit. One without an answer is kept and shown, but not
 * carried: the model would meet two of a visitor's messages in a row. Where room is short the oldest turns give way
 * first, then the summary, the opening and pins; the prompt and the newest message never.
 */
export function reachOf(track: Track, parts: Parts, room: Room): Reach {
  const filling = new Filling(track, parts, room);
  return policyOf(track.memory).isWhole ? filling.whole() : filling.fitted();
}

/** The filling of one context. */
class Filling {
  private readonly prompt: Holding;
  private readonly message: Holding;
  private readonly opening: Holding;
  private readonly limits: Limits;
  private readonly summary: SummaryAtHand | null;

  constructor(
    private readonly track: Track,
    private readonly parts: Parts,
    room: Room,
  ) {
    const { prompt, message, opening } = parts;
    const newest = track.newest.map(({ counts }): Holding => ({ counts, messages: 1 }));
    this.prompt = prompt === null ? noHolding : { counts: prompt, messages: 1 };
    this.message =
      newest.length > 0 ? newest.reduce(together) : message === null ? noHolding : { counts: message, messages: 1 };
    this.opening = opening.reduce(
      (sum, turn) => together(together(sum, { counts: turn.visitor, messages: 1 }), { counts: turn.app, messages: 1 }),
      noHolding,
    );
    this.limits = {
      budget: policyOf(track.memory).most(track.memory).tokens ?? Number.POSITIVE_INFINITY,
      ceiling: room.window - (room.maxOutput ?? 1),
    };
    this.summary = this.fitting();
  }

  /** Carries everything, whether it fits or not. */
  whole(): Reach {
    const { turns, above, base } = this.track;
    const last = turns.at(-1);
    const all = last
      ? { upTo: last.upTo, holding: apartFrom(last.holding, base) }
      : { upTo: above?.tokens ?? 0, holding: above?.holding ?? noHolding };
    const fate = above === null ? "unknown" : above.messages > 0 ? "carried" : "none";
    return this.reach({
      pins: new Map(),
      pinned: noHolding,
      hasOpening: true,
      summary: null,
      from: 0,
      turns: { tokens: all.upTo, holding: all.holding },
      fate,
    });
  }

  /** Carries what there is room for, the most important first. */
  fitted(): Reach {
    const { track } = this;
    const { turns, above } = track;
    const pins = new Map<string, Part>();
    let pinned: PinnedTurn[] = [];
    for (const pin of this.pins().toReversed()) {
      const tried = [pin, ...pinned];
      const excess = this.excess({ pinned: tried });
      pins.set(pin.visitor.id, {
        tokens: this.tokensOfPin(pin),
        carried: !excess,
        reason: excess ?? { kind: "pinned" },
      });
      if (!excess) pinned = tried;
    }
    const hasOpening = this.parts.opening.length > 0 && !this.excess({ pinned, hasOpening: true });
    const { summary } = this;
    const summaryOver = summary ? this.excess({ pinned, hasOpening, hasSummary: true }) : undefined;
    const hasSummary = summary !== null && !summaryOver;
    const carried = (from: number) => this.excess({ pinned, hasOpening, hasSummary, from });
    const earliest = this.earliest();
    let [low, high] = [earliest, turns.length];
    while (low < high) {
      const middle = Math.floor((low + high) / 2);
      if (carried(middle)) low = middle + 1;
      else high = middle;
    }
    const from = high;
    const isAllAtHand = above !== null && above.messages === 0;
    // nothing that stands above could be carried where the newest of it is not wanted
    const mayBeCarried = from === 0 && earliest === 0 && this.wantsMore();
    const fate = isAllAtHand ? "none" : mayBeCarried || this.mayFitAnother() ? "unknown" : "left out";
    const recent = new Set(turns.slice(from).map(({ visitor }) => visitor));
    for (const [id] of pins) if (recent.has(id)) pins.delete(id);
    return this.reach({
      pins,
      pinned: sum(pinned.filter(({ visitor }) => !recent.has(visitor.id))),
      hasOpening,
      summary: summary && {
        id: summary.id,
        turn: summary.turn,
        tokens: this.tokensOfSummary(),
        carried: hasSummary,
        reason: summaryOver ?? { kind: "summary" },
      },
      from,
      turns: this.turnsFrom(from),
      fate,
    });
  }

  /** Where the policy lets the carried turns begin at the earliest, whatever room there is. */
  private earliest(): number {
    const { memory, turns } = this.track;
    const { turns: most, messages } = policyOf(memory).most(memory);
    const { summary } = this;
    if (summary) {
      const next = turns.findIndex(({ number }) => number > summary.turn);
      return next < 0 ? turns.length : next;
    }
    const count = Math.min(most ?? turns.length, messages === undefined ? turns.length : Math.floor(messages / 2));
    return Math.max(turns.length - count, 0);
  }

  /** Whether the policy would carry a turn above those at hand, as far as their number goes. */
  private wantsMore(): boolean {
    const { memory, turns, atHand } = this.track;
    const { turns: most, messages } = policyOf(memory).most(memory);
    if (this.summary) return (atHand.rows[0]?.turn ?? 0) > this.summary.turn + 1;
    return (
      turns.length < Math.min(most ?? Number.POSITIVE_INFINITY, Math.floor((messages ?? Number.POSITIVE_INFINITY) / 2))
    );
  }

  /** Whether another summary may fit once more of the line is at hand. */
  private mayFitAnother(): boolean {
    const { atHand, memory, turns } = this.track;
    const inFull = policyOf(memory).inFull?.(memory);
    return inFull !== undefined && turns.length < inFull && (atHand.summaries?.length ?? 0) > 0;
  }

  /** The pinned turns that can be carried. */
  private pins(): readonly PinnedTurn[] {
    const { atHand, clear, memory, by } = this.track;
    return (atHand.pinned ?? []).filter(
      ({ visitor, reply }) =>
        isAnswer(reply) && visitor.turn > (clear?.turn ?? 0) && (!memory.apart || isBy(reply, by)),
    );
  }

  private tokensOfPin({ visitor, reply }: PinnedTurn): number {
    return tokensOfRow(this.track, visitor) + tokensOfRow(this.track, reply);
  }

  /** The summary that covers older turns, as far as the newest are not to be carried in full. */
  private fitting(): SummaryAtHand | null {
    const { atHand, clear, memory, turns, by } = this.track;
    const { rows, summaries = [] } = atHand;
    const inFull = policyOf(memory).inFull?.(memory);
    if (inFull === undefined || summaries.length === 0) return null;
    const oldest = turns.at(-inFull);
    // above the rows that are at hand each turn may have an answer
    const upTo = oldest ? oldest.number - 1 : (rows[0]?.turn ?? 1) - 1 - (inFull - turns.length);
    const pinned = this.pins().map(({ visitor: { id, turn } }) => ({ id, turn }));
    return fittingSummary(summaries, { upTo, clear: clear?.message ?? null, by: memory.apart ? by : null, pinned });
  }

  private tokensOfSummary(): number {
    if (!this.summary) return 0;
    return Math.round(tokensOf(this.summaryHolding(), this.track.calibration));
  }

  private summaryHolding(): Holding {
    const { summary } = this;
    return summary ? together({ counts: summary.counts, messages: 0 }, headHolding.summary) : noHolding;
  }

  /** What the turns of the track from one on have. */
  private turnsFrom(from: number): { tokens: number; holding: Holding } {
    const { turns, above, base } = this.track;
    const last = turns.at(-1);
    if (!last || from >= turns.length) return { tokens: 0, holding: noHolding };
    const before =
      from > 0
        ? (turns[from - 1] as TrackedTurn)
        : { upTo: above?.tokens ?? 0, holding: above ? together(above.holding, base) : base };
    return { tokens: last.upTo - before.upTo, holding: apartFrom(last.holding, before.holding) };
  }

  /** Why some parts can't be carried together, if they can't. */
  private excess(wanted: {
    pinned: readonly PinnedTurn[];
    hasOpening?: boolean;
    hasSummary?: boolean;
    from?: number;
  }): Extract<Reason, { kind: "over-budget" | "over-window" }> | undefined {
    const { turns } = this.track;
    const { pinned, hasOpening = false, hasSummary = false, from = turns.length } = wanted;
    const { budget, ceiling } = this.limits;
    const first = turns[from]?.number ?? Number.POSITIVE_INFINITY;
    // a pinned turn that is among the newest is not carried twice
    const apart = pinned.filter(({ visitor }) => visitor.turn < first);
    const recent = this.turnsFrom(from);
    const remembered =
      apart.reduce((all, pin) => all + this.tokensOfPin(pin), 0) +
      (hasSummary ? this.tokensOfSummary() : 0) +
      recent.tokens;
    if (remembered > budget) return { kind: "over-budget", by: remembered - budget };
    const all = this.sized(together(sum(apart), recent.holding), hasOpening, hasSummary);
    const over = all.fixed + remembered + all.margin - ceiling;
    return over > 0 ? { kind: "over-window", by: over } : undefined;
  }

  private tokensOfOpening(): number {
    return this.round(this.opening);
  }

  private round(holding: Holding): number {
    return Math.round(tokensOf(holding, this.track.calibration));
  }

  /**
   * What a whole context holds with some turns in it, how far the estimate of that may be off, and the tokens of what
   * is not remembered: prompt, opening and message.
   */
  private sized(turns: Holding, hasOpening: boolean, hasSummary: boolean) {
    const { memory, calibration } = this.track;
    const hasHead = memory.as === "text" && turns.messages > 0;
    const head = hasHead ? headHolding.messages : noHolding;
    const opening = hasOpening ? this.opening : noHolding;
    const holding = [
      this.message,
      opening,
      hasSummary ? this.summaryHolding() : noHolding,
      head,
      hasHead ? asText(turns) : turns,
    ].reduce(together, this.prompt);
    const prompt = this.round(this.prompt) + this.round(head);
    const fixed = prompt + this.round(opening) + this.round(this.message);
    return { holding, margin: Math.ceil(marginOf(holding, calibration)), prompt, fixed };
  }

  private reach(filled: {
    pins: Map<string, Part>;
    /** What the pins hold that are carried apart. */
    pinned: Holding;
    hasOpening: boolean;
    summary: Reach["summary"];
    from: number;
    turns: { tokens: number; holding: Holding };
    fate: Above["fate"];
  }): Reach {
    const { track, limits } = this;
    const { pins, summary, from, turns, fate } = filled;
    const pinTokens = [...pins.values()].reduce((all, pin) => all + (pin.carried ? pin.tokens : 0), 0);
    const remembered = pinTokens + (summary?.carried ? summary.tokens : 0) + turns.tokens;
    const hasOpening = filled.hasOpening && this.parts.opening.length > 0;
    const opening: Part | null =
      this.parts.opening.length === 0
        ? null
        : {
            tokens: this.tokensOfOpening(),
            carried: hasOpening,
            reason: hasOpening
              ? { kind: "opening" }
              : (this.excess({ pinned: [], hasOpening: true }) ?? { kind: "opening" }),
          };
    const { holding, margin, prompt, fixed } = this.sized(
      together(filled.pinned, turns.holding),
      hasOpening,
      summary?.carried === true,
    );
    const all = fixed + remembered;
    const messageTokens = this.round(this.message);
    return {
      track,
      prompt,
      opening,
      summary,
      pins,
      turns: { tokens: turns.tokens, messages: turns.holding.messages, turns: turns.holding.messages / 2 },
      remembered,
      message: messageTokens,
      tokens: all,
      margin,
      holding,
      excess: Math.max(all + margin - limits.ceiling, 0),
      from,
      above: { fate, tokens: track.above?.tokens ?? 0, messages: track.above?.messages ?? 0 },
      limits,
    };
  }
}

/**
 * The most tokens that a dispatch of this reach can send, however much of the line is still to be read: what is always
 * carried, and all of the line that the budget and the window let through.
 */
export function mostTokens({ tokens, remembered, margin, limits, track }: Reach): number {
  const ofLine = track.above === null ? Number.POSITIVE_INFINITY : (track.turns.at(-1)?.upTo ?? track.above.tokens);
  const most = tokens - remembered + Math.max(Math.min(limits.budget, ofLine), remembered);
  return Math.ceil(Math.min(most + margin, Math.max(limits.ceiling, tokens)));
}

/** The words of the summary that is carried, where they are at hand; undefined where none is. */
export function carriedSummary({ summary, track }: Reach): string | undefined {
  if (!summary?.carried) return undefined;
  return track.atHand.summaries?.find(({ id }) => id === summary.id)?.text;
}

function sum(pins: readonly PinnedTurn[]): Holding {
  return pins.reduce((all, { visitor, reply }) => together(all, holdingOf(visitor, reply)), noHolding);
}
