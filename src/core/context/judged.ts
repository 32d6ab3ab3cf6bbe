import { tokensOf } from "../tokens/calibration";
import { policyOf } from "./policies/policies";
import type { Judged, Reach } from "./reach";
import type { Reason } from "./reason";
import { isAnswer, type Row } from "./row";
import { isBy, type Track, tokensOfRow } from "./track";

/** A row with what becomes of it. */
export interface Reached extends Judged {
  row: Row;
}

/** The rows at hand from a place on, each with what becomes of it. */
export function judgedRows(reach: Reach, first = 0): Reached[] {
  const { track, pins, from } = reach;
  const { clear } = track;
  const { rows } = track.atHand;
  return rows.slice(first).map((row, offset): Reached => {
    const at = first + offset;
    const own = tokensOfRow(track, row);
    if (track.newest.includes(row))
      return { row, tokens: alone(track, row), carried: true, reason: { kind: "newest" } };
    const [visitor, reply] = row.role === "visitor" ? [row, rows[at + 1]] : [rows[at - 1], row];
    if (!reply || !isAnswer(reply)) return { row, tokens: own, carried: false, reason: { kind: "unanswered" } };
    if (clear && row.turn <= clear.turn) return { row, tokens: own, carried: false, reason: { kind: "cleared" } };
    if (track.memory.apart && !isBy(reply, track.by))
      return { row, tokens: own, carried: false, reason: { kind: "apart" } };
    const place = track.places[at] ?? -1;
    if (place >= from) return { row, tokens: own, carried: true, reason: { kind: "remembered" } };
    const pin = visitor && pins.get(visitor.id);
    if (pin) return { row, tokens: own, carried: pin.carried, reason: pin.reason };
    return { row, tokens: own, carried: false, reason: whyOut(reach, place) };
  });
}

/** Why a turn that could be carried is left out. @param place in the turns of the track; -1 for those above them */
export function whyOut(reach: Reach, place: number): Reason {
  const { track, summary, from, remembered, tokens, margin, limits } = reach;
  const { memory, turns, above } = track;
  const { turns: most, messages } = policyOf(memory).most(memory);
  const back = turns.length - place;
  if (summary?.carried && (turns[place]?.number ?? 0) <= summary.turn) return { kind: "summarised" };
  if (most === 0) return { kind: "forgotten" };
  if (most !== undefined && back > most) return { kind: "older", most, of: "turns" };
  if (messages !== undefined && back * 2 === messages + 1) return { kind: "parted", most: messages };
  if (messages !== undefined && back * 2 > messages) return { kind: "older", most: messages, of: "messages" };
  const upTo = (at: number) => (at < 0 ? (above?.tokens ?? 0) : (turns[at]?.upTo ?? 0));
  // what it would take to carry all down from it
  const more = upTo(from - 1) - (place < 0 ? 0 : upTo(place - 1));
  if (remembered + more > limits.budget) return { kind: "over-budget", by: remembered + more - limits.budget };
  return { kind: "over-window", by: Math.max(tokens + more + margin - limits.ceiling, 1) };
}

/** Tokens of a message as one of its own. */
function alone({ calibration }: Track, { counts }: Row): number {
  return Math.round(tokensOf({ counts, messages: 1 }, calibration));
}
