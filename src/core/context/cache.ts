import type { Lead } from "./lead";
import { markOf } from "./mark";
import type { Reach } from "./reach";
import { tokensOfRow } from "./track";

/** The lead of a context. @param head the system prompt as it is sent, without the turns that are carried in it as text */
export function leadOf(reach: Reach, head: string, opening: readonly { visitor: string; app: string }[]): Lead {
  return {
    prompt: markOf(head),
    opening: reach.opening?.carried ? markOf(JSON.stringify(opening)) : "",
    pins: pinsOf(reach),
    first: firstOf(reach),
    last: reach.track.newest.at(-1)?.id ?? "",
  };
}

/**
 * How many tokens at the beginning of a context are the same as those of one that was sent before.
 * @param next of the context, before its newest message is stored
 */
export function sameTokens(before: Lead, next: Lead, reach: Reach): number {
  if (next.prompt !== before.prompt) return 0;
  let same = reach.prompt + (reach.summary?.carried ? reach.summary.tokens : 0);
  // as text, what is remembered stands in the prompt, before the opening
  const isText = reach.track.memory.as === "text";
  if (!isText && next.opening !== before.opening) return same;
  if (!isText && reach.opening?.carried) same += reach.opening.tokens;
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
