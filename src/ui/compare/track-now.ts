import type { LaneTurn } from "@/contract/comparisons";
import type { LaneTrack, Wait } from "@/core/comparing/track";
import { isUnderWay } from "@/core/reply/reply";
import { liveReplies } from "../shared/use-live-reply";

/** How the clocks of this tab stand to the server's. */
export interface Clock {
  /** `performance.now()` as it is. */
  here: number;
  /** Milliseconds since 1970 on the server's clock at `performance.now()` 0. */
  offset: number;
}

const nothing: LaneTrack = { waits: [], arrivals: [], end: null };

/**
 * A track as it stands now: as the server had it, and what arrived in this tab since. `now` is how far it has come, in
 * milliseconds since the lane was asked.
 */
export function trackNow(made: LaneTurn | undefined, { here, offset }: Clock): { track: LaneTrack; now: number } {
  const { track, reply, askedAt } = made ?? {};
  if (!track || askedAt == null) return { track: nothing, now: 0 };
  const now = Math.max(offset + here - askedAt, 0);
  if (track.end !== null || !reply || !isUnderWay(reply.state)) return { track, now: track.end ?? now };
  return { track: grown(track, liveArrivals(reply.id, offset - askedAt), now), now };
}

/** A track under way with what came since it was read. */
export function grown(track: LaneTrack, live: LaneTrack["arrivals"], now: number): LaneTrack {
  const known = track.arrivals.at(-1)?.at ?? -1;
  const arrivals = [...track.arrivals, ...live.filter(({ at }) => at > known + 1)];
  const first = arrivals[0]?.at;
  const waits = track.waits.map((wait, at): Wait => {
    const isLast = at === track.waits.length - 1;
    if (!isLast || track.arrivals.length > 0) return wait;
    const isOver = first !== undefined && first >= wait.from;
    return { ...wait, to: isOver ? first : Math.max(now, wait.to) };
  });
  return { ...track, waits, arrivals };
}

function liveArrivals(reply: string, offset: number): LaneTrack["arrivals"] {
  const heard = liveReplies.arrivalsOf(reply);
  if (!heard) return [];
  const at = (after: number) => offset + heard.began + after;
  return [
    ...heard.text.map(([after, length]) => ({ at: at(after), text: length, thought: 0 })),
    ...heard.thoughts.map(([after, length]) => ({ at: at(after), text: 0, thought: length })),
  ].sort((a, b) => a.at - b.at);
}

/** The length of an axis on which all tracks have room, and which does not grow with each moment. @param ends milliseconds */
export function axisEnd(ends: readonly number[]): number {
  const longest = Math.max(1_000, ...ends) * 1.14;
  const step = longest < 5_000 ? 500 : longest < 20_000 ? 2_000 : 10_000;
  return Math.ceil(longest / step) * step;
}
