import type { Message } from "../conversation/message";
import { hasWords, type Piece } from "../conversation/pieces";
import { noSum, rawTokensOf, type Sum } from "../conversation/sum";
import type { Candidate } from "../reply/events";
import { isUnderWay, type ReplyState } from "../reply/reply";
import type { Calibration } from "../tokens/calibration";
import { added, type Counts, rawTokens, tokensPerMessage } from "../tokens/counts";
import type { Clear } from "./clear";
import { type Memory, policies } from "./policies/policies";
import type { Policy } from "./policies/policy";
import type { Reason } from "./reason";

/** A message as the reach sees it: without its text. */
export interface Row {
  id: string;
  turn: number;
  role: Message["role"];
  /** Of a reply. */
  state: ReplyState | null;
  counts: Counts;
  /** Of all answered turns up to this row: a reply's own turn included, a question's not. */
  soFar: Sum;
  /** The kinds of its pieces that hold something. */
  kinds: Piece["kind"][];
  /** Who answered. */
  by: Candidate | null;
}

/** What stands in a dispatch beside the rows. */
export interface Parts {
  /** The filled system prompt; null where it is empty. */
  prompt: Counts | null;
  /** The message that is written now, where it is no row yet. */
  message: Counts | null;
}

/** What a dispatch can hold. */
export interface Room {
  /** The model's context window, in tokens. */
  window: number;
  /** Tokens that are kept for the reply, where that is limited. */
  maxOutput?: number;
  calibration: Calibration;
}

/** A row with what becomes of it. */
export interface Reached {
  row: Row;
  /** For the model that is to answer, the row's borders included. */
  tokens: number;
  carried: boolean;
  reason: Reason;
}

/** All that the next dispatch carries; its parts are one sum. */
export interface Reach {
  prompt: number;
  /** Of the answered turns that are carried, those that are not at hand included. */
  earlier: { tokens: number; messages: number; turns: number };
  /** Of the message that is answered, or written now. */
  message: number;
  /** What that message comes after. */
  before: Sum;
  /** All of it. */
  tokens: number;
  /** The same before it was put right for the model; what calibration learns from. */
  rawTokens: number;
  /** The rows that are at hand, in order. */
  rows: Reached[];
  /** The answered turns above them. */
  above: Above;
}

/** What stands above the rows that are at hand, of which no more is known than its sum. */
export interface Above {
  /** What becomes of it; `unknown` where the policy would first have to see more rows. */
  fate: "none" | "carried" | "left out" | "unknown";
  tokens: number;
  messages: number;
  /** What stands above that again, and above a clear: the last turn of it. It is never carried. */
  cleared: { turn: number; tokens: number; messages: number } | null;
}

/** A message without its text. */
export function rowOf(message: Message): Row {
  const { id, turn, role, counts, soFar } = message;
  const kinds = hasWords(message) ? message.pieces.map(({ kind }) => kind) : [];
  if (message.role === "visitor") return { id, turn, role, state: null, counts, soFar, kinds, by: null };
  const { provider, model } = message.facts;
  return { id, turn, role, state: message.state, counts, soFar, kinds, by: { provider, model } };
}

/**
 * What of a line the next dispatch carries. Turns are the unit. One without an answer is kept and shown, but
 * not carried: the model would meet two of a visitor's messages in a row.
 * @param rows the end of the line, in order; what is above is known by the sum that the first row has so far
 * @param clear the last one in the line
 */
export function reach(
  rows: readonly Row[],
  parts: Parts,
  memory: Memory,
  room: Room,
  clear: Clear | null = null,
): Reach {
  const { ratio } = room.calibration;
  const newest = newestOf(rows);
  const before = newest === undefined ? (rows.at(-1)?.soFar ?? noSum) : newest.soFar;
  const base = clear?.soFar ?? noSum;
  const kept = keptTurns(rows, memory, ratio, clear?.turn ?? 0);
  const reached = rows.map((row, at): Reached => {
    const tokens = tokensOfRow(row, ratio);
    if (row === newest) return { row, tokens, carried: true, reason: { kind: "newest" } };
    if (!isAnswered(row, rows[at + 1])) return { row, tokens, carried: false, reason: { kind: "unanswered" } };
    if (clear && row.turn <= clear.turn) return { row, tokens, carried: false, reason: { kind: "cleared" } };
    if (row.turn < kept.from) return { row, tokens, carried: false, reason: { kind: "not-remembered" } };
    return { row, tokens, carried: true, reason: { kind: "remembered" } };
  });
  const message = newest?.counts ?? parts.message;
  const earlier = kept.all ? less(before, base) : kept.sum;
  const earlierTokens = kept.all ? round(before, ratio) - round(base, ratio) : kept.tokens;
  const messageTokens = message === null ? 0 : tokensAfter(before, message, ratio);
  const prompt = parts.prompt === null ? 0 : Math.round(rawOfMessage(parts.prompt) * ratio);
  return {
    prompt,
    earlier: { tokens: earlierTokens, messages: earlier.messages, turns: earlier.turns },
    message: messageTokens,
    before,
    tokens: prompt + earlierTokens + messageTokens,
    rawTokens:
      (parts.prompt === null ? 0 : rawOfMessage(parts.prompt)) +
      rawTokensOf(earlier) +
      (message === null ? 0 : rawOfMessage(message)),
    rows: reached,
    above: aboveOf(reached, before, kept.above, ratio, clear),
  };
}

/** What is above the rows: what their line has, less what they have of it. */
function aboveOf(
  rows: readonly Reached[],
  before: Sum,
  fate: Above["fate"],
  ratio: number,
  clear: Clear | null,
): Above {
  const first = rows[0]?.row;
  if (!first || (first.turn === 1 && first.role === "visitor"))
    return { fate: "none", tokens: 0, messages: 0, cleared: null };
  const answered = rows.filter(({ reason }) => reason.kind !== "newest" && reason.kind !== "unanswered");
  const tokens = answered.reduce((left, row) => left - row.tokens, round(before, ratio));
  const messages = before.messages - answered.length;
  if (!clear) return { fate, tokens, messages, cleared: null };
  const last = first.role === "visitor" ? first.turn - 1 : first.turn;
  if (clear.turn >= last) return { fate: "none", tokens: 0, messages: 0, cleared: { turn: last, tokens, messages } };
  const cleared = { turn: clear.turn, tokens: round(clear.soFar, ratio), messages: clear.soFar.messages };
  return { fate, tokens: tokens - cleared.tokens, messages: messages - cleared.messages, cleared };
}

/** The visitor's message that is to be answered, where the line ends with one. */
function newestOf(rows: readonly Row[]): Row | undefined {
  const last = rows.at(-1);
  return last?.role === "visitor" ? last : undefined;
}

/** Whether a row belongs to a turn that has an answer, or still may get one. */
function isAnswered(row: Row, next: Row | undefined): boolean {
  const reply = row.role === "app" ? row : next;
  return reply !== undefined && (reply.kinds.length > 0 || (reply.state !== null && isUnderWay(reply.state)));
}

/** The turns that a policy keeps: all of them, or those from a number on; and what it says of those above the rows. */
type Kept =
  | { all: true; from: 0; above: "carried" }
  | { all: false; from: number; sum: Sum; tokens: number; above: "left out" | "unknown" };

function keptTurns(rows: readonly Row[], memory: Memory, ratio: number, clearedTurn: number): Kept {
  const { keeps }: Policy = policies[memory.kind];
  if (!keeps) return { all: true, from: 0, above: "carried" };
  let kept: Kept = { all: false, from: Number.POSITIVE_INFINITY, sum: noSum, tokens: 0, above: "unknown" };
  let back = 0;
  for (let at = rows.length - 1; at > 0; at -= 1) {
    const [visitor, reply] = [rows[at - 1] as Row, rows[at] as Row];
    if (reply.role !== "app" || visitor.role !== "visitor" || !isAnswered(reply, undefined)) continue;
    if (visitor.turn <= clearedTurn) return { ...kept, above: "left out" };
    back += 1;
    const tokens: number = kept.tokens + tokensOfRow(visitor, ratio) + tokensOfRow(reply, ratio);
    if (!keeps(memory, { back, tokens })) return { ...kept, above: "left out" };
    const counts = added(added(kept.sum.counts, visitor.counts), reply.counts);
    kept = { ...kept, from: visitor.turn, tokens, sum: { counts, messages: back * 2, turns: back } };
  }
  return kept;
}

/** Tokens of a message as its share of the sum with it. */
export function tokensAfter(before: Sum, message: Counts, ratio: number): number {
  return round(withMessage(before, message), ratio) - round(before, ratio);
}

/** Tokens of a row as its share of the sum so far: so rows add up to what their line has, to the token. */
function tokensOfRow(row: Row, ratio: number): number {
  const { role, counts, soFar } = row;
  if (role === "visitor") return tokensAfter(soFar, counts, ratio);
  if (!isAnswered(row, undefined)) return Math.round(rawOfMessage(counts) * ratio);
  return round(soFar, ratio) - Math.round((rawTokensOf(soFar) - rawOfMessage(counts)) * ratio);
}

/** A sum without what its beginning holds. */
function less(sum: Sum, begun: Sum): Sum {
  const { words, digits, signs, marks } = begun.counts;
  const counts = added(sum.counts, { words: -words, digits: -digits, signs: -signs, marks: -marks });
  return { counts, messages: sum.messages - begun.messages, turns: sum.turns - begun.turns };
}

function withMessage(sum: Sum, counts: Counts): Sum {
  return { ...sum, counts: added(sum.counts, counts), messages: sum.messages + 1 };
}

function round(sum: Sum, ratio: number): number {
  return Math.round(rawTokensOf(sum) * ratio);
}

function rawOfMessage(counts: Counts): number {
  return rawTokens(counts) + tokensPerMessage;
}
