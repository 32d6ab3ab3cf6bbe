/**
 * Variables of a system prompt: `{{name}}`. `{{today}}`, `{{weekday}}` and `{{time}}` are filled
 * from the moment of the call, in UTC; all others from the call, or else from the revision.
 */

const variable = /\{\{\s*([a-z][a-zA-Z0-9_]*)\s*\}\}/g;
const weekdays = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];

/** The names that are filled from the clock. */
export const clockVariables = ["today", "weekday", "time"];

/** The names of the variables in a prompt, each once, in order. */
export function variablesIn(prompt: string): string[] {
  return [...new Set([...prompt.matchAll(variable)].map((match) => match[1] as string))];
}

/** A prompt with its variables filled, and the names of those that have no value. */
export interface FilledPrompt {
  text: string;
  missing: string[];
}

/**
 * Fills the variables of a prompt.
 * @param now epoch milliseconds
 */
export function fillPrompt(prompt: string, values: Record<string, string>, now: number): FilledPrompt {
  const clock = clockValues(now);
  const missing = new Set<string>();
  const text = prompt.replace(variable, (whole, name: string) => {
    const value = own(values, name) ?? own(clock, name);
    if (value === undefined) missing.add(name);
    return value ?? whole;
  });
  return { text, missing: [...missing] };
}

function own(values: Record<string, string>, name: string): string | undefined {
  return Object.hasOwn(values, name) ? values[name] : undefined;
}

function clockValues(now: number): Record<string, string> {
  const date = new Date(now);
  const [day = "", time = ""] = date.toISOString().split("T");
  return { today: day, weekday: weekdays[date.getUTCDay()] ?? "", time: time.slice(0, 5) };
}
