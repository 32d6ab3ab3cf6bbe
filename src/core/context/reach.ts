import { marginOf, tokensOf } from "../tokens/calibration";
import { apartFrom, type Holding, noHolding, together } from "../tokens/counts";
import { everyPlace, type PiecePlaces, sentHolding } from "../wire/places";
import { type BesidePart, type Fate, type PartKind, ranks } from "./parts/part";
import { policyOf } from "./policies/policies";
import type { Reason } from "./reason";
import { isAnswer, type PinnedTurn } from "./row";
import { fittingSummary, type SummaryAtHand } from "./summary";
import { holdingOf, isBy, type Track, type TrackedTurn, tokensOfRow } from "./track";
import { asText, headHolding } from "./transcript";

/** What a dispatch can hold. */
export interface Room {
  /** The model's context window, in tokens. */
  window: number;
  /** Tokens that are kept for the reply, where that is limited. */
  maxOutput?: number;
  /** What becomes of pieces in the requests that go there. */
  places?: PiecePlaces;
  /** The models that see pictures, for one who chose another. */
  seeing?: () => readonly string[];
}

/** A part of a context: what it holds, who gives way to whom, and what becomes of it. */
export interface Part extends Fate {
  kind: string;
  holding: Holding;
  tokens: number;
  /** Null for what never gives way; else the highest gives way first. */
  rank: number | null;
  /** Where it is sent. */
  stands: PartKind["stands"] | "line";
  mark?: string;
  count?: number;
  mayAdd?: number;
  words?: string;
  ahead?: string;
  messages?: BesidePart["messages"];
  passage?: BesidePart["passage"];
}

/** The summary that covers older turns, which stands at the end of the system prompt. */
export interface SummaryPart extends Part {
  id: string;
  turn: number;
}

/** What a row, or a pinned turn, comes to. */
export interface Judged extends Fate {
  tokens: number;
}

/** All that the next dispatch carries: a list of parts, in the order in which they are sent, of which all else is a sum. */
export interface Reach {
  track: Track;
  parts: Part[];
  /** The one among the parts that is a summary; null where there is none. */
  summary: SummaryPart | null;
  /** Pinned turns that are not among the newest that are carried, by the visitor's message. */
  pins: Map<string, Judged>;
  /** The newest turns that are carried, those that are not at hand included. */
  turns: { tokens: number; messages: number; turns: number };
  /** All that is remembered: summary, pins and turns. */
  remembered: number;
  /** All of it. */
  tokens: number;
  /** Tokens that the estimate may be off by to either side. */
  margin: number;
  /** What all of it holds, and what of that is sent, which calibration learns from. */
  whole: Holding;
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
 * What the next dispatch carries of a line and of what stands beside it. Turns are the unit. One without an answer is
 * kept and shown, but not carried: the model would meet two of a visitor's messages in a row. Where room is short parts
 * give way by their rank: the oldest turns first, then the summary, the opening and pins; the prompt and the newest
 * message never.
 * @param beside in the order in which it is sent
 */
export function reachOf(track: Track, beside: readonly BesidePart[], room: Room): Reach {
  const filling = new Filling(track, beside, room);
  return policyOf(track.memory).isWhole ? filling.whole() : filling.fitted();
}

/** The part of a kind; undefined where there is none. */
export function partOf({ parts }: Pick<Reach, "parts">, kind: string): Part | undefined {
  return parts.find((part) => part.kind === kind);
}

/** Tokens of the parts of a kind, as far as they are carried. */
export function tokensOfPart({ parts }: Pick<Reach, "parts">, kind: string): number {
  return parts.reduce((sum, part) => sum + (part.kind === kind && part.carried ? part.tokens : 0), 0);
}

/** What is carried together, while a context is filled. */
interface Filled {
  pinned: readonly PinnedTurn[];
  /** Parts that stand beside the line. */
  beside: ReadonlySet<BesidePart>;
  hasSummary: boolean;
  /** Where in the turns of the track those begin that are carried. */
  from: number;
}

type TooMuch = Extract<Reason, { kind: "over-budget" | "over-window" }>;

/** The filling of one context. */
class Filling {
  private readonly newest: Holding;
  private readonly limits: Limits;
  private readonly summary: SummaryAtHand | null;
  /** Why parts were left out that were tried. */
  private readonly leftOut = new Map<BesidePart | "summary", TooMuch>();
  private readonly pins = new Map<string, Judged>();

  constructor(
    private readonly track: Track,
    private readonly beside: readonly BesidePart[],
    private readonly room: Room,
  ) {
    this.newest = track.newest.map(({ counts }): Holding => ({ counts, messages: 1 })).reduce(together, noHolding);
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
      ? { tokens: last.upTo, holding: apartFrom(last.holding, base) }
      : { tokens: above?.tokens ?? 0, holding: above?.holding ?? noHolding };
    const fate = above === null ? "unknown" : above.messages > 0 ? "carried" : "none";
    const beside = new Set(this.beside.filter(({ out }) => !out));
    return this.reach({ pinned: [], beside, hasSummary: false, from: 0 }, all, fate);
  }

  /** Carries what there is room for, the most important first. */
  fitted(): Reach {
    const { turns, above } = this.track;
    const fixed = this.beside.filter(({ rank }) => rank === null);
    const steps: { rank: number; fill: (filled: Filled) => Filled }[] = [
      { rank: ranks.pins, fill: (filled) => this.withPins(filled) },
      { rank: ranks.summary, fill: (filled) => this.withSummary(filled) },
      { rank: ranks.turns, fill: (filled) => this.withTurns(filled) },
      ...this.beside.flatMap((part) =>
        part.rank === null || part.out
          ? []
          : [{ rank: part.rank, fill: (filled: Filled) => this.withPart(filled, part) }],
      ),
    ];
    const nothing: Filled = { pinned: [], beside: new Set(fixed), hasSummary: false, from: turns.length };
    const filled = steps.sort((a, b) => a.rank - b.rank).reduce((before, { fill }) => fill(before), nothing);
    const isAllAtHand = above !== null && above.messages === 0;
    // nothing that stands above could be carried where the newest of it is not wanted
    const mayBeCarried = filled.from === 0 && this.earliest() === 0 && this.wantsMore();
    const fate = isAllAtHand ? "none" : mayBeCarried || this.mayFitAnother() ? "unknown" : "left out";
    const recent = new Set(turns.slice(filled.from).map(({ visitor }) => visitor));
    for (const [id] of this.pins) if (recent.has(id)) this.pins.delete(id);
    const apart = filled.pinned.filter(({ visitor }) => !recent.has(visitor.id));
    return this.reach({ ...filled, pinned: apart }, this.turnsFrom(filled.from), fate);
  }

  /** With as many of the pinned turns as there is room for, the newest first. */
  private withPins(filled: Filled): Filled {
    let { pinned } = filled;
    for (const pin of this.pinned().toReversed()) {
      const excess = this.excess({ ...filled, pinned: [pin, ...pinned] });
      const reason: Reason = excess ?? { kind: "pinned" };
      this.pins.set(pin.visitor.id, { tokens: this.tokensOfPin(pin), carried: !excess, reason });
      if (!excess) pinned = [pin, ...pinned];
    }
    return { ...filled, pinned };
  }

  private withSummary(filled: Filled): Filled {
    return this.summary ? this.tried("summary", filled, { ...filled, hasSummary: true }) : filled;
  }

  private withPart(filled: Filled, part: BesidePart): Filled {
    return this.tried(part, filled, { ...filled, beside: new Set([...filled.beside, part]) });
  }

  /** What is carried with something more, or as it was where there is no room for that. */
  private tried(what: BesidePart | "summary", before: Filled, after: Filled): Filled {
    const excess = this.excess(after);
    if (!excess) return after;
    this.leftOut.set(what, excess);
    return before;
  }

  /** With as many of the newest turns as there is room for. */
  private withTurns(filled: Filled): Filled {
    let [low, high] = [this.earliest(), this.track.turns.length];
    while (low < high) {
      const middle = Math.floor((low + high) / 2);
      if (this.excess({ ...filled, from: middle })) low = middle + 1;
      else high = middle;
    }
    return { ...filled, from: high };
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
  private pinned(): readonly PinnedTurn[] {
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
    const pinned = this.pinned().map(({ visitor: { id, turn } }) => ({ id, turn }));
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

  /** Why all of this can't be carried together, if it can't. */
  private excess(filled: Filled): TooMuch | undefined {
    const { turns } = this.track;
    const { pinned, hasSummary, from } = filled;
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
    const all = this.sized(together(sum(apart), recent.holding), filled);
    const over = all.fixed + remembered + all.margin - ceiling;
    return over > 0 ? { kind: "over-window", by: over } : undefined;
  }

  private round(holding: Holding): number {
    return Math.round(tokensOf(holding, this.track.calibration));
  }

  /** What stands before turns that are carried as text. */
  private headOf(turns: Holding): Holding {
    return this.track.memory.as === "text" && turns.messages > 0 ? headHolding.messages : noHolding;
  }

  /**
   * What a whole context holds with some turns in it, how far the estimate of that may be off, and the tokens of what
   * is not remembered.
   */
  private sized(turns: Holding, { beside, hasSummary }: Pick<Filled, "beside" | "hasSummary">) {
    const head = this.headOf(turns);
    const holding = [
      this.newest,
      ...[...beside].map((part) => part.holding),
      hasSummary ? this.summaryHolding() : noHolding,
      head,
      head === noHolding ? turns : asText(turns),
    ].reduce(together, noHolding);
    const { calibration } = this.track;
    const sent = sentHolding(holding, this.room.places ?? everyPlace);
    const fixed = [...beside].reduce((all, part) => all + this.round(part.holding), 0);
    return {
      whole: holding,
      sent,
      margin: Math.ceil(marginOf(sent, calibration)),
      fixed: fixed + this.round(head) + this.round(this.newest),
    };
  }

  private reach(filled: Filled, turns: { tokens: number; holding: Holding }, fate: Above["fate"]): Reach {
    const { track, limits, pins } = this;
    const pinned = sum(filled.pinned);
    const pinTokens = [...pins.values()].reduce((all, pin) => all + (pin.carried ? pin.tokens : 0), 0);
    const summary = this.summaryPart(filled.hasSummary);
    const remembered = pinTokens + (summary?.carried ? summary.tokens : 0) + turns.tokens;
    const inLine = together(pinned, turns.holding);
    const { whole, sent, margin, fixed } = this.sized(inLine, filled);
    const all = fixed + remembered;
    const of = (stands: PartKind["stands"]) =>
      this.beside.filter((part) => part.stands === stands).map((part) => this.besidePart(part, filled, inLine));
    const carried = (kind: string, rank: number | null, holding: Holding, tokens: number, reason: Reason): Part[] =>
      tokens > 0 ? [{ kind, stands: "line", rank, holding, tokens, carried: true, reason }] : [];
    return {
      track,
      parts: [
        ...of("first"),
        ...(summary ? [summary] : []),
        ...of("before"),
        ...carried("pins", ranks.pins, pinned, pinTokens, { kind: "pinned" }),
        ...carried("turns", ranks.turns, turns.holding, turns.tokens, { kind: "remembered" }),
        ...carried("message", null, this.newest, this.round(this.newest), { kind: "newest" }),
        ...of("after"),
      ],
      summary,
      pins,
      turns: { tokens: turns.tokens, messages: turns.holding.messages, turns: turns.holding.messages / 2 },
      remembered,
      tokens: all,
      margin,
      whole,
      holding: sent,
      excess: Math.max(all + margin - limits.ceiling, 0),
      from: filled.from,
      above: { fate, tokens: track.above?.tokens ?? 0, messages: track.above?.messages ?? 0 },
      limits,
    };
  }

  /** A part with what becomes of it; the words before turns that are carried as text are those of the prompt. */
  private besidePart(part: BesidePart, { beside }: Filled, inLine: Holding): Part {
    const isCarried = beside.has(part);
    const head = part.kind === "prompt" ? this.headOf(inLine) : noHolding;
    return {
      ...part,
      holding: head === noHolding ? part.holding : together(part.holding, head),
      tokens: this.round(part.holding) + this.round(head),
      carried: isCarried,
      reason: isCarried ? part.reason : (part.out ?? this.leftOut.get(part) ?? part.reason),
    };
  }

  private summaryPart(isCarried: boolean): SummaryPart | null {
    const { summary } = this;
    if (!summary) return null;
    return {
      kind: "summary",
      stands: "first",
      rank: ranks.summary,
      id: summary.id,
      turn: summary.turn,
      holding: this.summaryHolding(),
      tokens: this.tokensOfSummary(),
      carried: isCarried,
      reason: this.leftOut.get("summary") ?? { kind: "summary" },
    };
  }
}

/**
 * The most tokens that a dispatch of this reach can send, however much of the line is still to be read: what is always
 * carried, what may still come to its parts, and all of the line that the budget and the window let through.
 */
export function mostTokens({ tokens, remembered, margin, limits, track, parts }: Reach): number {
  const mayAdd = parts.reduce((sum, part) => sum + (part.mayAdd ?? 0), 0);
  const ofLine = track.above === null ? Number.POSITIVE_INFINITY : (track.turns.at(-1)?.upTo ?? track.above.tokens);
  const most = tokens - remembered + Math.max(Math.min(limits.budget, ofLine), remembered) + mayAdd;
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
