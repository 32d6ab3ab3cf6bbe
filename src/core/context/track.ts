import { noSum, type Sum } from "../conversation/sum";
import type { Candidate } from "../reply/events";
import { type Calibration, tokensOf, tokensOfCounts, type Weights } from "../tokens/calibration";
import { apartFrom, type Holding, noHolding, together } from "../tokens/counts";
import { type Clear, clearFor } from "./clear";
import type { Memory } from "./policies/policies";
import { isAnswer, type PinnedTurn, type Row } from "./row";
import type { SummaryAtHand } from "./summary";
import { labelsOfTurn } from "./transcript";

/** What is at hand of a line, and of what hangs on it. */
export interface AtHand {
  /** The end of the line, in order; it begins with a visitor's message. */
  rows: readonly Row[];
  /** The clears in the line, the last first. */
  clears?: readonly Clear[];
  /** The pinned turns of the line, in order, wherever they stand in it. */
  pinned?: readonly PinnedTurn[];
  /** Whether the reply at the end is gone on from: its turn is what is answered. */
  goesOn?: boolean;
  /** The summaries of the line, the newest first; with their words where these are at hand. */
  summaries?: readonly (SummaryAtHand & { text?: string })[];
}

/** A turn that can be carried. */
export interface TrackedTurn {
  /** Where its visitor's message stands in the rows; the reply stands after it. */
  at: number;
  number: number;
  visitor: string;
  /** Tokens of all turns of the track up to this one, itself included. */
  upTo: number;
  /** What these hold, with what the track begins after. */
  holding: Holding;
}

/** Answered turns that stand above the rows at hand, and below a clear. */
export interface TurnsAbove {
  tokens: number;
  messages: number;
  holding: Holding;
}

/**
 * The turns of a line that a memory can carry: those that have an answer, below a clear, and where memory is apart
 * those that this model answered. It is made once for a line; what is carried of it is then known without going through it.
 */
export interface Track {
  atHand: AtHand;
  memory: Memory;
  calibration: Calibration;
  /** Who is to answer. */
  by: Candidate;
  weights: Weights;
  /** The clear that holds for who is to answer. */
  clear: Clear | null;
  /** What is answered: the visitor's message that the line ends with, or the turn that is gone on from; else nothing. */
  newest: readonly Row[];
  turns: TrackedTurn[];
  /** What the line holds above a clear, which is no part of the track. */
  base: Holding;
  /** The place in the turns of each row; -1 where it is of none. */
  places: Int32Array;
  /** Null where not enough is at hand to know. */
  above: TurnsAbove | null;
  /** What stands above the rows and above a clear: the last turn of it. It is never carried. */
  cleared: { turn: number; tokens: number; messages: number } | null;
}

/** Makes the track of a line for one model. */
export function trackOf(atHand: AtHand, memory: Memory, calibration: Calibration, by: Candidate): Track {
  const { rows, clears = [] } = atHand;
  const clear = clearFor(clears, memory, by);
  const last = rows.at(-1);
  const track: Track = {
    atHand,
    memory,
    calibration,
    by,
    weights:
      memory.as === "text"
        ? { ...calibration.weights, message: tokensOfCounts(labelsOfTurn, calibration) / 2 }
        : calibration.weights,
    clear,
    newest: last?.role === "visitor" ? [last] : atHand.goesOn ? rows.slice(-2) : [],
    turns: [],
    base: memory.apart ? noHolding : (clear?.soFar ?? noHolding),
    places: new Int32Array(rows.length).fill(-1),
    above: { tokens: 0, messages: 0, holding: noHolding },
    cleared: null,
  };
  placeAbove(track);
  const cleared = tokens(track, track.base);
  let [upTo, holding]: [number, Holding] = [0, noHolding];
  const end = rows.length - track.newest.length;
  for (let at = 0; at + 1 < end; at += 1) {
    const [visitor, reply] = [rows[at] as Row, rows[at + 1] as Row];
    if (!isTracked(track, visitor, reply)) continue;
    if (memory.apart) {
      upTo += tokensOfRow(track, visitor) + tokensOfRow(track, reply);
      holding = together(holding, holdingOf(visitor, reply));
    } else {
      upTo = tokens(track, reply.soFar) - cleared;
      // the sum as it stands: a long line would otherwise be copied
      holding = reply.soFar;
    }
    track.places.fill(track.turns.length, at, at + 2);
    track.turns.push({ at, number: visitor.turn, visitor: visitor.id, upTo, holding });
  }
  return track;
}

/** Notes what stands above the rows. */
function placeAbove(track: Track): void {
  const { clear } = track;
  const [first] = track.atHand.rows;
  if (!first || first.turn === 1) return;
  const { soFar } = first;
  const turnsAbove = first.turn - 1;
  if (clear) {
    const isAll = clear.turn >= turnsAbove;
    const sum = isAll ? soFar : clear.soFar;
    track.cleared = { turn: Math.min(clear.turn, turnsAbove), tokens: tokens(track, sum), messages: sum.messages };
    if (isAll) return;
  }
  const cleared = clear?.soFar ?? noSum;
  const holding = apartFrom(soFar, cleared);
  track.above = track.memory.apart
    ? null
    : { tokens: tokens(track, soFar) - tokens(track, cleared), messages: holding.messages, holding };
}

/** Whether a turn can be carried. */
function isTracked({ clear, memory, by }: Track, visitor: Row, reply: Row): boolean {
  if (visitor.role !== "visitor" || reply.role !== "app" || !isAnswer(reply)) return false;
  if (clear && visitor.turn <= clear.turn) return false;
  return !memory.apart || isBy(reply, by);
}

/** Whether a model answered with a reply. */
export function isBy({ by }: Row, { provider, model }: Candidate): boolean {
  return by !== null && by.provider === provider && by.model === model;
}

/** What a turn holds. */
export function holdingOf(visitor: Row, reply: Row): Holding {
  return together({ counts: visitor.counts, messages: 1 }, { counts: reply.counts, messages: 1 });
}

/** Tokens of a row: its share of the sum so far, so that rows add up to what their line has, to the token. */
export function tokensOfRow(track: Track, { role, counts, soFar, ...row }: Row): number {
  const alone = () => tokens(track, { counts, messages: 1 });
  if (track.memory.apart) return alone();
  if (role === "visitor") return tokens(track, together(soFar, { counts, messages: 1 })) - tokens(track, soFar);
  if (!isAnswer({ role, counts, soFar, ...row })) return alone();
  return tokens(track, soFar) - tokens(track, apartFrom(soFar, { counts, messages: 1 }));
}

/** Whole tokens of what is remembered. */
export function tokens({ weights }: Pick<Track, "weights">, holding: Holding | Sum): number {
  return Math.round(tokensOf(holding, { weights }));
}
