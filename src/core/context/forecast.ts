import type { Message } from "../conversation/message";
import type { Problem } from "../problem/problem";
import type { Content } from "../revision/revision";
import { fillPrompt } from "../revision/variables";
import { countsOf } from "../tokens/counts";
import { outgrows, problemOfMissing } from "./assemble";
import type { Clear } from "./clear";
import { type Reach, type Room, reach, rowOf, tokensAfter } from "./reach";

/** What the next dispatch would carry. */
export interface Forecast extends Reach {
  room: Room;
  /** Why it can't be sent, if it can't. */
  problem?: Problem;
}

/**
 * Forecasts the reach of the next dispatch, before a word of its message is typed.
 * @param line the end of the conversation's line, as far as it is at hand
 * @param clear the last one in the line
 */
export function forecast(
  content: Content,
  line: readonly Message[],
  room: Room,
  now: number,
  clear: Clear | null = null,
): Forecast {
  const filled = fillPrompt(content.prompt, content.variables, now);
  const prompt = filled.text.trim() === "" ? null : countsOf(filled.text);
  const reached = reach(line.map(rowOf), { prompt, message: null }, content.memory, room, clear);
  return { ...reached, room, problem: problemOfMissing(filled.missing) ?? outgrows(reached.tokens, room) };
}

/** The forecast with what is typed; it costs no more than counting that. */
export function withTyped(ahead: Forecast, typed: string): Forecast {
  if (typed.trim() === "") return ahead;
  const { before, room } = ahead;
  const message = tokensAfter(before, countsOf(typed), room.calibration.ratio);
  const tokens = ahead.prompt + ahead.earlier.tokens + message;
  return { ...ahead, message, tokens, problem: ahead.problem ?? outgrows(tokens, room) };
}
