import { z } from "zod";

/** What a lane waited for: a place at its provider, text of a call that went out, or the next try. */
const waitSchema = z.object({
  for: z.enum(["place", "text", "try"]),
  from: z.number(),
  to: z.number(),
  /** Whether what was waited for did not come: the call failed. */
  isInVain: z.boolean(),
});
export type Wait = z.infer<typeof waitSchema>;

/** When what came of a lane in a turn. All times are milliseconds since it was asked. */
export const trackSchema = z.object({
  waits: z.array(waitSchema),
  /** Characters of text and of thought that came within some milliseconds. */
  arrivals: z.array(z.object({ at: z.number(), text: z.int(), thought: z.int() })),
  /** When it ended; null while it is under way. */
  end: z.number().nullable(),
});
export type LaneTrack = z.infer<typeof trackSchema>;

/** What a lane's reply took: of its calls alone, whatever it waited for before them. */
export const readingsSchema = z.object({
  /** Milliseconds from the call to the first text; null where none came. */
  firstTextMs: z.number().nullable(),
  /** Milliseconds of all calls. */
  ms: z.number(),
  /** Tokens of the reply a second, from the first text to the end; null where that can't be said. */
  speed: z.number().nullable(),
});
export type LaneReadings = z.infer<typeof readingsSchema>;

/** One call that was made for a lane's reply. */
export interface TrackedCall {
  /** Epoch milliseconds. */
  startedAt: number;
  /** Milliseconds that it took; null while it is under way. */
  ms: number | null;
  /** Milliseconds after its start, and characters of text and thought that were read then. */
  read: readonly { at: number; text: number; thought: number }[];
  hasFailed: boolean;
  /** Whether its provider takes only so many calls at once. */
  hasPlaces: boolean;
}

/** Arrivals nearer to each other than this are one, in milliseconds. */
const together = 25;
/** Shorter waits are none, in milliseconds: so long it takes to gather what is sent. */
const shortest = 80;

/** The track of a lane's reply from the calls that were made for it. @param askedAt epoch milliseconds */
export function laneTrackOf(calls: readonly TrackedCall[], askedAt: number, now: number, isOver: boolean): LaneTrack {
  const waits: Wait[] = [];
  const arrivals: LaneTrack["arrivals"] = [];
  let free = 0;
  for (const [at, { startedAt, ms, read, hasFailed, hasPlaces }] of calls.entries()) {
    const start = Math.max(startedAt - askedAt, 0);
    if (start - free > shortest && (at > 0 || hasPlaces))
      waits.push({ for: at === 0 ? "place" : "try", from: free, to: start, isInVain: false });
    const end = ms === null ? Math.max(now - askedAt, start) : start + ms;
    const [first] = read;
    const to = first ? Math.min(start + first.at, end) : end;
    waits.push({ for: "text", from: start, to, isInVain: first === undefined && hasFailed });
    for (const { at: after, text, thought } of read) add(arrivals, { at: start + after, text, thought });
    free = end;
  }
  if (calls.length === 0 && !isOver)
    waits.push({ for: "place", from: 0, to: Math.max(now - askedAt, 0), isInVain: false });
  return { waits, arrivals, end: isOver ? free : null };
}

function add(arrivals: LaneTrack["arrivals"], arrival: LaneTrack["arrivals"][0]): void {
  const last = arrivals.at(-1);
  if (last && arrival.at - last.at < together) {
    last.text += arrival.text;
    last.thought += arrival.thought;
  } else arrivals.push({ ...arrival });
}

/** What a reply took. @param output tokens of the reply, its thoughts among them; undefined where nobody counted */
export function readingsOf(calls: readonly TrackedCall[], output: number | undefined): LaneReadings {
  let before = 0;
  let firstTextMs: number | null = null;
  for (const { ms, read } of calls) {
    const first = read.find(({ text }) => text > 0);
    if (first && firstTextMs === null) firstTextMs = before + first.at;
    before += ms ?? 0;
  }
  // of what came at once nobody can say how fast it was made
  const arrivals = calls.reduce((sum, { read }) => sum + read.length, 0);
  const span = firstTextMs === null || arrivals < 2 ? 0 : before - firstTextMs;
  const speed = output === undefined || span <= 0 ? null : Math.round((output / span) * 10_000) / 10;
  return { firstTextMs, ms: before, speed };
}
