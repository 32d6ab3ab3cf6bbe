import type { Lead } from "./lead";
import { markOf } from "./mark";
import { carriedSummary, type Part, type Reach } from "./reach";
import { tokensOfRow } from "./track";

/** The lead of a context. */
export function leadOf(reach: Reach): Lead {
  return {
    parts: partsBefore(reach).map((part) => [part.kind, markOfPart(reach, part)]),
    pins: pinsOf(reach),
    first: firstOf(reach),
    last: reach.track.newest.at(-1)?.id ?? "",
  };
}

/** The parts that are sent before the line: where turns are carried as text, those are in the system prompt. */
function partsBefore({ parts, track }: Reach): Part[] {
  const isText = track.memory.as === "text";
  return parts.filter(({ carried, stands }) => carried && (stands === "first" || (stands === "before" && !isText)));
}

function markOfPart(reach: Reach, part: Part): string {
  return part.kind === "summary" ? markOf(carriedSummary(reach) ?? "") : (part.mark ?? "");
}

/**
 * How many tokens at the beginning of a context are the same as those of one that was sent before.
 * @param next of the context, before its newest message is stored
 */
export function sameTokens(before: Lead, next: Lead, reach: Reach): number {
  let same = 0;
  const parts = partsBefore(reach);
  for (const [at, { tokens }] of parts.entries()) {
    if (String(before.parts[at]) !== String(next.parts[at])) return same;
    same += tokens;
  }
  if (before.parts.length > parts.length) return same;
  const isText = reach.track.memory.as === "text";
  if (next.pins.join() !== before.pins.join()) return same;
  for (const id of next.pins) same += reach.pins.get(id)?.tokens ?? 0;
  if (next.first === null) return same;
  const { track, turns, from } = reach;
  const { rows } = track.atHand;
  // where nothing was remembered, the message that was answered was the first
  const isFirst = !isText && before.first === null && track.turns[from]?.visitor === before.last;
  if (next.first !== before.first && !isFirst) return same;
  const end = rows.findLastIndex(({ id }) => id === before.last);
  if (end < 0) return same;
  const after = track.turns.slice(from).filter(({ at }) => at >= end);
  // the question of the turn that was answered then is the same, its answer is new
  const own = rows[end];
  const added = (after.at(-1)?.upTo ?? 0) - (after[0] ? upToBefore(reach, after[0].at) : 0);
  const asked = !isText && own && after.length > 0 ? tokensOfRow(track, own) : 0;
  return same + turns.tokens - added + asked;
}

/** The first message that is remembered; what stands for the beginning of the line, or a clear, where all from there on is. */
export function firstOf({ above, from, track, turns }: Reach): string | null {
  if (turns.turns === 0) return null;
  const isAll = from === 0 && (above.fate === "none" || above.fate === "carried");
  return isAll ? `after ${track.clear?.message ?? "nothing"}` : (track.turns[from]?.visitor ?? null);
}

function upToBefore({ track }: Reach, at: number): number {
  const place = track.places[at] ?? 0;
  return place > 0 ? (track.turns[place - 1]?.upTo ?? 0) : (track.above?.tokens ?? 0);
}

function pinsOf({ pins, track }: Reach): string[] {
  return (track.atHand.pinned ?? []).flatMap(({ visitor }) => (pins.get(visitor.id)?.carried ? [visitor.id] : []));
}
