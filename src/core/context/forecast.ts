import type { Problem } from "../problem/problem";
import type { Candidate } from "../reply/events";
import type { Content } from "../revision/content";
import { fillPrompt } from "../revision/variables";
import type { Calibration } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import { outgrows, partsOf, problemOfMissing } from "./assemble";
import { firstOf, leadOf } from "./cache";
import type { Lead } from "./lead";
import { carriedSummary, type Parts, type Reach, type Room, reachOf } from "./reach";
import { type AtHand, type Track, trackOf } from "./track";
import { headOf } from "./transcript";

/** What the next dispatch would carry. */
export interface Forecast extends Reach {
  room: Room;
  parts: Parts;
  /** Why it can't be sent, if it can't. */
  problem?: Problem;
  /** Variables that nothing gives a value. */
  missing: string[];
  /** What stands for its beginning; null where what is typed pushed a part of that out. */
  lead: Lead | null;
}

/**
 * Forecasts the reach of the next dispatch, before a word of its message is typed.
 * @param atHand the end of the conversation's line, as far as it is at hand
 */
export function forecast(
  content: Content,
  atHand: AtHand,
  model: Room & { calibration: Calibration; by: Candidate },
  now: number,
): Forecast {
  const { calibration, by, ...room } = model;
  return forecastOn(content, trackOf(atHand, content.memory, calibration, by), room, now);
}

/** The same of a track that was made before. */
export function forecastOn(content: Content, track: Track, room: Room, now: number): Forecast {
  const filled = fillPrompt(content, content.samples ?? {}, now);
  const ahead = filledOut(track, partsOf(content, filled.text), room, filled.missing);
  const head = headOf(filled.text, carriedSummary(ahead));
  return { ...ahead, lead: leadOf(ahead, head, content.opening ?? []) };
}

/** The forecast with what is typed; it does not go through the line again. */
export function withTyped(ahead: Forecast, typed: string): Forecast {
  if (typed.trim() === "") return ahead;
  const all = filledOut(ahead.track, { ...ahead.parts, message: countsOf(typed) }, ahead.room, ahead.missing);
  // what is pushed out by what is typed changes the beginning
  const isSame = all.summary?.carried === ahead.summary?.carried && all.opening?.carried === ahead.opening?.carried;
  return { ...all, lead: ahead.lead && isSame ? { ...ahead.lead, first: firstOf(all) } : null };
}

function filledOut(track: Track, parts: Parts, room: Room, missing: string[]): Omit<Forecast, "lead"> {
  const reach = reachOf(track, parts, room);
  return { ...reach, room, parts, missing, problem: problemOfMissing(missing) ?? outgrows(reach, room) };
}
