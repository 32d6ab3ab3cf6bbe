/**
 * Where something is in a JSON document: the part of JSONPath (RFC 9535) that profiles need now,
 * which is names, indexes and `[*]`. A path is compiled once and then read many times.
 */

type Step = { name: string } | { index: number } | "all";

/** A compiled path. */
export interface Path {
  /** The first value at the path, or undefined when there is none. */
  first(document: unknown): unknown;
  /** All values at the path, in document order. */
  all(document: unknown): unknown[];
}

/** Thrown for a path that is not one; the message says where it goes wrong. */
export class PathError extends Error {}

/**
 * Compiles a path such as `$.choices[0].delta.content` or `$.data[*].id`.
 * @throws {PathError} naming the place and what was expected there.
 */
export function compilePath(source: string): Path {
  const path = parse(source);
  const all = (document: unknown) => select(document, path, 0, []);
  if (path.includes("all")) return { all, first: (document) => all(document)[0] };
  const read = path.map((step) =>
    typeof step === "object" && "name" in step ? byName(step.name) : byIndex(step as { index: number }),
  );
  return {
    all,
    first: (document) => read.reduce<unknown>((value, each) => (value === undefined ? value : each(value)), document),
  };
}

type Read = (value: unknown) => unknown;

/** Reads a member. Names that every object or list has by nature are looked at twice; the rest is the hot way. */
function byName(name: string): Read {
  const isInherited = name in Object.prototype || name in Array.prototype || /^\d+$/.test(name);
  if (isInherited) return (value) => (isPlain(value) && Object.hasOwn(value, name) ? value[name] : undefined);
  return (value) =>
    typeof value === "object" && value !== null ? (value as Record<string, unknown>)[name] : undefined;
}

function byIndex({ index }: { index: number }): Read {
  if (index < 0) return (value) => (Array.isArray(value) ? value.at(index) : undefined);
  return (value) => (Array.isArray(value) ? value[index] : undefined);
}

function isPlain(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

function select(value: unknown, steps: Step[], at: number, found: unknown[]): unknown[] {
  const step = steps[at];
  if (step === undefined) {
    if (value !== undefined) found.push(value);
  } else if (typeof value === "object" && value !== null) {
    if (step === "all") for (const each of Object.values(value)) select(each, steps, at + 1, found);
    else select(("name" in step ? byName(step.name) : byIndex(step))(value), steps, at + 1, found);
  }
  return found;
}

/** How each kind of step is written, and what it compiles to. */
const steps: [pattern: RegExp, step: (match: RegExpExecArray) => Step][] = [
  [/\.\*|\[\s*\*\s*\]/y, () => "all"],
  [/\.([\p{L}_][\p{L}\p{N}_]*)/uy, ([, name = ""]) => ({ name })],
  [/\[\s*(-?(?:0|[1-9][0-9]*))\s*\]/y, ([, index]) => ({ index: Number(index) })],
  [/\[\s*"((?:[^"\\]|\\.)*)"\s*\]/suy, ([, name = ""]) => ({ name: plain(name) })],
  [/\[\s*'((?:[^'\\]|\\.)*)'\s*\]/suy, ([, name = ""]) => ({ name: plain(name) })],
];

function parse(source: string): Step[] {
  if (!source.startsWith("$")) throw new PathError(`"${source}" is not a JSONPath: expected "$" at the start`);
  const parsed: Step[] = [];
  for (let at = 1; at < source.length; ) {
    const [step, length] = stepAt(source, at);
    parsed.push(step);
    at += length;
  }
  return parsed;
}

function stepAt(source: string, at: number): [Step, length: number] {
  for (const [pattern, step] of steps) {
    pattern.lastIndex = at;
    const match = pattern.exec(source);
    if (match) return [step(match), match[0].length];
  }
  throw new PathError(`"${source}" is not a JSONPath: expected ${expectedAt(source, at)} at character ${at + 1}`);
}

function expectedAt(source: string, at: number): string {
  if (source[at] === ".") return "a name";
  if (source[at] === "[") return source.indexOf("]", at) < 0 ? '"]"' : "an index, a quoted name or *";
  return '"." or "["';
}

/** A quoted name without its escapes. */
function plain(quoted: string): string {
  return quoted.replace(/\\(.)/gsu, "$1");
}
