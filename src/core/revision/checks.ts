import { policyOf } from "../context/policies/policies";
import { rawTokens } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import { stretchesOf, withoutBlocks } from "./blocks";
import { clockVariables } from "./clock";
import type { Content } from "./content";
import { variablesIn } from "./variables";

/** Something about a prompt and its limits that is wrong, or that costs more than it has to; the interface has the words. */
export type Check =
  /** A variable that nothing gives a value. */
  | { kind: "no-value"; name: string }
  /** Braces that hold no name of a variable. */
  | { kind: "no-variable"; text: string }
  | { kind: "empty-block"; block: string }
  /** A block is switched off that the prompt does not have. */
  | { kind: "no-block"; block: string }
  /** The reply may have as many tokens as the window has. */
  | { kind: "no-room"; maxOutput: number; window: number }
  /** The prompt alone has so many tokens more than the window leaves beside the reply. */
  | { kind: "too-long"; by: number }
  /** What is remembered may have more tokens than the window leaves. */
  | { kind: "budget-over-window"; budget: number; room: number }
  /** What changes by the minute stands before so many tokens of the prompt: from there on no cache of a provider holds. */
  | { kind: "clock-early"; tokens: number };

/** Tokens of a prompt after the time of day from which on it stands early. */
const early = 30;

/**
 * Checks a prompt and the limits around it.
 * @param window of the model, in tokens
 * @param tokens of the filled prompt, as the model counts them
 */
export function checksOf(content: Content, window: number, tokens = 0): Check[] {
  const { prompt, off = [], variables, samples = {}, settings, memory } = content;
  const checks: Check[] = [];
  const sent = withoutBlocks(prompt, off);
  for (const name of variablesIn(sent))
    if (!clockVariables.includes(name) && !Object.hasOwn(variables, name) && !Object.hasOwn(samples, name))
      checks.push({ kind: "no-value", name });
  for (const [text] of prompt.matchAll(/\{\{[^{}\n]{0,80}\}\}/g))
    if (variablesIn(text).length === 0) checks.push({ kind: "no-variable", text });
  const stretches = stretchesOf(prompt);
  for (const { block, text } of stretches)
    if (block !== null && text.trim() === "") checks.push({ kind: "empty-block", block });
  for (const block of off)
    if (stretches.every((each) => each.block !== block)) checks.push({ kind: "no-block", block });
  const { maxOutput } = settings;
  if (maxOutput !== undefined && maxOutput >= window) checks.push({ kind: "no-room", maxOutput, window });
  const over = tokens - (window - (maxOutput ?? 1));
  if (over > 0 && tokens > 0 && (maxOutput ?? 0) < window) checks.push({ kind: "too-long", by: over });
  const budget = policyOf(memory).most(memory).tokens;
  const room = window - (maxOutput ?? 1);
  if (budget !== undefined && room > 0 && budget > room) checks.push({ kind: "budget-over-window", budget, room });
  const after = sent
    .split(/\{\{\s*time\s*\}\}/)
    .slice(1)
    .join(" ");
  const tokensAfter = rawTokens(countsOf(after));
  if (tokensAfter >= early) checks.push({ kind: "clock-early", tokens: tokensAfter });
  return checks;
}
