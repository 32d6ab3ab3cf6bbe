import { withoutBlocks } from "./blocks";
import { clockValues, clockVariables } from "./clock";
import type { Content } from "./content";

/**
 * Variables of a system prompt: `{{name}}`. `{{today}}`, `{{weekday}}` and `{{time}}` are filled from the moment of
 * the call, in the app's time zone; all others from the call, or else from the revision.
 */

const variable = /\{\{\s*([a-z][a-zA-Z0-9_]*)\s*\}\}/g;

/** The names of the variables in a prompt, each once, in order. */
export function variablesIn(prompt: string): string[] {
  return [...new Set([...prompt.matchAll(variable)].map((match) => match[1] as string))];
}

/** The variables of an app's prompt that a call gives: those that neither the clock nor the app itself fills. */
export function variablesOfCalls({ prompt, variables }: Pick<Content, "prompt" | "variables">): string[] {
  return variablesIn(prompt).filter((name) => !clockVariables.includes(name) && !Object.hasOwn(variables, name));
}

/** A variable that a call gives, with a value to try it with. */
export interface Asked {
  name: string;
  sample: string;
}

/** Those variables with the values that the developer tries them with; their own names where there is none. */
export function askedOfCalls(content: Pick<Content, "prompt" | "variables" | "samples">): Asked[] {
  return variablesOfCalls(content).map((name) => ({ name, sample: content.samples?.[name] || name }));
}

/** A stretch of a prompt that is filled: plain text, or a variable with its value. */
export type Filled = { kind: "text"; text: string } | { kind: "variable"; name: string; value: string | undefined };

/** A prompt with its variables filled, and the names of those that have no value. */
export interface FilledPrompt {
  text: string;
  missing: string[];
}

/**
 * What is sent of the prompt of an app: without the blocks that are switched off, its variables filled.
 * @param values of its variables, from the call
 * @param now epoch milliseconds
 */
export function fillPrompt(
  { prompt, off = [], variables, timeZone }: Pick<Content, "prompt" | "off" | "variables" | "timeZone">,
  values: Record<string, string>,
  now: number,
): FilledPrompt {
  const missing = new Set<string>();
  const parts = filledParts(withoutBlocks(prompt, off), { ...variables, ...values }, now, timeZone);
  const text = parts.map((part) => {
    if (part.kind === "text") return part.text;
    if (part.value === undefined) missing.add(part.name);
    return part.value ?? `{{${part.name}}}`;
  });
  return { text: text.join("").trim() === "" ? "" : text.join(""), missing: [...missing] };
}

/** A text in stretches, as its variables are filled. */
export function filledParts(
  text: string,
  values: Record<string, string>,
  now: number,
  timeZone: string | undefined,
): Filled[] {
  const parts: Filled[] = [];
  const clock = text.includes("{{") ? clockValues(now, timeZone) : {};
  let from = 0;
  for (const match of text.matchAll(variable)) {
    const name = match[1] as string;
    parts.push({ kind: "text", text: text.slice(from, match.index) });
    parts.push({ kind: "variable", name, value: own(values, name) ?? own(clock, name) });
    from = match.index + match[0].length;
  }
  parts.push({ kind: "text", text: text.slice(from) });
  return parts;
}

function own(values: Record<string, string>, name: string): string | undefined {
  return Object.hasOwn(values, name) ? values[name] : undefined;
}
