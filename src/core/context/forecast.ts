import type { Message } from "../conversation/message";
import type { Problem } from "../problem/problem";
import type { Content } from "../revision/revision";
import { fillPrompt } from "../revision/variables";
import { type Calibration, calibrated } from "../tokens/calibration";
import { estimateTokens, tokensPerMessage } from "../tokens/estimate";
import { outgrows, promptTokens } from "./assemble";
import { type Reached, reach } from "./reach";

/** What the next dispatch would carry, before a word of the next message is typed. */
export interface Forecast {
  /** The messages that are at hand, each in or out. */
  reached: Reached[];
  /** Tokens of the filled system prompt, and of the carried messages; not yet put right for the model. */
  prompt: number;
  messages: number;
  /** Carried turns, those that are not at hand included. */
  turns: number;
  /** Variables of the prompt that nothing gives a value. */
  missing: string[];
}

/**
 * Forecasts the reach of the next dispatch.
 * @param line the end of the conversation's line, as far as it is at hand
 * @param earlier what is carried of all that comes before it
 */
export function forecast(
  content: Content,
  line: Message[],
  earlier: { turns: number; tokens: number },
  now: number,
): Forecast {
  const reached = reach(line, content.memory);
  const carried = reached.filter((each) => each.carried);
  const prompt = fillPrompt(content.prompt, content.variables, now);
  return {
    reached,
    prompt: promptTokens(prompt.text),
    messages: earlier.tokens + carried.reduce((sum, { message }) => sum + message.tokens + tokensPerMessage, 0),
    turns: earlier.turns + carried.filter(({ message }) => message.role === "visitor").length,
    missing: prompt.missing,
  };
}

/** The tokens that would go in with what is typed, put right for the model. */
export function tokensWith(forecast: Forecast, typed: string, calibration: Calibration): number {
  const message = typed.trim() === "" ? 0 : estimateTokens(typed) + tokensPerMessage;
  return calibrated(forecast.prompt + forecast.messages + message, calibration);
}

/** Why what is typed can't be sent, if it can't. */
export function problemWith(tokens: number, content: Content, window: number): Problem | undefined {
  return outgrows(tokens, content.settings.maxOutput, window);
}
