/** A value of JSON. */
export type Json = string | number | boolean | null | Json[] | { [name: string]: Json };

/** A text read as JSON; undefined when it is none. */
export function parseJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** Levels of a value from outside that are written out or gone through. */
export const deepest = 200;

/** Whether a value is nested deeper than `most`; it is gone through without recursion, so that any depth can be asked about. */
export function isDeeperThan(value: unknown, most: number = deepest): boolean {
  const left: [value: unknown, depth: number][] = [[value, 0]];
  for (let next = left.pop(); next !== undefined; next = left.pop()) {
    const [each, depth] = next;
    if (typeof each !== "object" || each === null) continue;
    if (depth >= most) return true;
    for (const inner of Object.values(each)) left.push([inner, depth + 1]);
  }
  return false;
}

/** A text read as JSON; undefined when it is none, or is nested deeper than can be gone through step by step. */
export function parseShallow(text: string): unknown {
  const value = parseJson(text);
  return isDeeperThan(value) ? undefined : value;
}

/** A value from outside as text: a string or number as it is, all else as JSON, unless that is nested too deep to be written. */
export function written(value: unknown): string {
  if (typeof value !== "object" || value === null) return String(value);
  return isDeeperThan(value) ? `(nested more than ${deepest} levels deep)` : (JSON.stringify(value) ?? "");
}

/** A text percent-encoded; half a surrogate in it becomes the sign for what can't be written. */
export function percentEncoded(text: string): string {
  return encodeURIComponent(text.replace(/\p{Surrogate}/gu, "\uFFFD"));
}

/** A value that stands for a word, such as a number of a take or a name of a kind; undefined for anything else. */
export function wordOf(value: unknown): string | undefined {
  return typeof value === "string" || typeof value === "number" || typeof value === "boolean"
    ? String(value)
    : undefined;
}

/** The beginning of a text, in one line. */
export function excerpt(text: string): string {
  const line = text.slice(0, 1000).replace(/\s+/g, " ").trim();
  return line.length > 160 ? `${line.slice(0, 160)}…` : line;
}
