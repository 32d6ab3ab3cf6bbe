import { policyOf } from "../context/policies/policies";
import { rawTokens } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import { stretchesOf, withoutBlocks } from "./blocks";
import { clockVariables } from "./clock";
import type { Content } from "./content";
import { variablesIn } from "./variables";

/** Something about a prompt and its limits that is wrong, or that costs more than it has to; the interface has the words. */
export type Flaw =
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
 * What is wrong with a prompt and the limits around it.
 * @param window of the model, in tokens
 * @param tokens of the filled prompt, as the model counts them
 */
export function flawsIn(content: Content, window: number, tokens = 0): Flaw[] {
  const { prompt, off = [], variables, samples = {}, settings, memory } = content;
  const flaws: Flaw[] = [];
  const sent = withoutBlocks(prompt, off);
  for (const name of variablesIn(sent))
    if (!clockVariables.includes(name) && !Object.hasOwn(variables, name) && !Object.hasOwn(samples, name))
      flaws.push({ kind: "no-value", name });
  for (const [text] of prompt.matchAll(/\{\{[^{}\n]{0,80}\}\}/g))
    if (variablesIn(text).length === 0) flaws.push({ kind: "no-variable", text });
  const stretches = stretchesOf(prompt);
  for (const { block, text } of stretches)
    if (block !== null && text.trim() === "") flaws.push({ kind: "empty-block", block });
  for (const block of off) if (stretches.every((each) => each.block !== block)) flaws.push({ kind: "no-block", block });
  const { maxOutput } = settings;
  if (maxOutput !== undefined && maxOutput >= window) flaws.push({ kind: "no-room", maxOutput, window });
  const over = tokens - (window - (maxOutput ?? 1));
  if (over > 0 && tokens > 0 && (maxOutput ?? 0) < window) flaws.push({ kind: "too-long", by: over });
  const budget = policyOf(memory).most(memory).tokens;
  const room = window - (maxOutput ?? 1);
  if (budget !== undefined && room > 0 && budget > room) flaws.push({ kind: "budget-over-window", budget, room });
  const after = sent
    .split(/\{\{\s*time\s*\}\}/)
    .slice(1)
    .join(" ");
  const tokensAfter = rawTokens(countsOf(after));
  if (tokensAfter >= early) flaws.push({ kind: "clock-early", tokens: tokensAfter });
  return flaws;
}
