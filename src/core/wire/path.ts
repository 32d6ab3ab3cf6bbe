import { parseJson } from "./json";

/**
 * Where something is in a JSON document: the part of JSONPath (RFC 9535) that profiles need, which
 * is names, indexes, `[*]` and simple filters such as `[?@.kind == "text"]`, `[?@.kind != "note"]`
 * and `[?@.kind]`, joined by `&&`. A path is compiled once and then read many times.
 */
type Step = { name: string } | { index: number } | { where: (element: unknown) => boolean } | "all";

/** A compiled path. */
export interface Path {
  /** Its text, as written. */
  source: string;
  /** The first value at the path, or undefined when there is none. */
  first(document: unknown): unknown;
  /** All values at the path, in document order. */
  all(document: unknown): unknown[];
  /** Shows each value at the path, in document order. */
  each(document: unknown, visit: (value: unknown) => void): void;
  /** Where those values stand: the names and indexes that lead to each. */
  places(document: unknown): (string | number)[][];
  /** Whether it can find more than one value. */
  isMany: boolean;
}

/** Thrown for a path that is not one; the message says where it goes wrong. */
export class PathError extends Error {}

/**
 * Compiles a path such as `$.choices[0].delta.content` or `$.data[*].id`. It begins with `$`, the
 * document, or with `@`, the element that a rule goes through.
 * @throws {PathError} naming the place and what was expected there.
 */
export function compilePath(source: string): Path {
  const path = parse(source);
  const isMany = path.some((step) => step === "all" || "where" in step);
  const each = path.reduceRight<Walk>(
    (next, step) => walkOf(step, next),
    (value, visit) => visit(value),
  );
  const all = (document: unknown) => {
    const found: unknown[] = [];
    if (document !== undefined) each(document, (value) => found.push(value));
    return found;
  };
  const places = (document: unknown) => placesOf(document, path, []);
  if (isMany) return { source, isMany, each, all, places, first: (document) => all(document)[0] };
  const reads = path.map((step) => readOf(step as { name: string } | { index: number }));
  const first = (document: unknown) => {
    let value = document;
    for (const read of reads) {
      if (value === undefined) return undefined;
      value = read(value);
    }
    return value;
  };
  return { source, isMany, each, all, places, first };
}

function placesOf(value: unknown, [step, ...rest]: Step[], trail: (string | number)[]): (string | number)[][] {
  if (step === undefined) return value === undefined ? [] : [trail];
  if (typeof value !== "object" || value === null) return [];
  const on = (name: string | number, inner: unknown) => placesOf(inner, rest, [...trail, name]);
  if (step !== "all" && "name" in step) return on(step.name, readOf(step)(value));
  if (step !== "all" && "index" in step)
    return Array.isArray(value) ? on(step.index < 0 ? value.length + step.index : step.index, readOf(step)(value)) : [];
  const isIn = (element: unknown) => step === "all" || step.where(element);
  return Object.entries(value).flatMap(([name, element]) =>
    isIn(element) ? on(Array.isArray(value) ? Number(name) : name, element) : [],
  );
}

/** A path to one place, written as `$.a[0]["odd name"]`. */
export function pathTo(steps: readonly (string | number)[]): string {
  return steps.reduce<string>((path, step) => {
    if (typeof step === "number") return `${path}[${step}]`;
    return /^[\p{L}_][\p{L}\p{N}_]*$/u.test(step) ? `${path}.${step}` : `${path}[${JSON.stringify(step)}]`;
  }, "$");
}

type Read = (value: unknown) => unknown;
type Walk = (value: unknown, visit: (value: unknown) => void) => void;

/** Goes one step from a value, to all that it leads to, and on from there. */
function walkOf(step: Step, next: Walk): Walk {
  if (step === "all") return (value, visit) => elements(value, (element) => next(element, visit));
  if ("where" in step) {
    const { where } = step;
    return (value, visit) =>
      elements(value, (element) => {
        if (where(element)) next(element, visit);
      });
  }
  const read = readOf(step);
  return (value, visit) => {
    const found = read(value);
    if (found !== undefined) next(found, visit);
  };
}

function elements(value: unknown, visit: (element: unknown) => void): void {
  if (Array.isArray(value)) for (let at = 0; at < value.length; at++) visit(value[at]);
  else if (typeof value === "object" && value !== null) for (const each of Object.values(value)) visit(each);
}

function readOf(step: { name: string } | { index: number }): Read {
  return "name" in step ? byName(step.name) : byIndex(step);
}

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

/** How each kind of step is written, and what it compiles to. */
const test = String.raw`@(?:\.[\p{L}_][\p{L}\p{N}_]*|\[[^\]]*\])*\s*(?:[=!]=\s*(?:"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|-?[\d.]+|true|false|null)\s*)?`;
const steps: [pattern: RegExp, step: (match: RegExpExecArray) => Step][] = [
  [/\.\*|\[\s*\*\s*\]/y, () => "all"],
  [/\.([\p{L}_][\p{L}\p{N}_]*)/uy, ([, name = ""]) => ({ name })],
  [/\[\s*(0|-?[1-9][0-9]*)\s*\]/y, ([, index]) => ({ index: Number(index) })],
  [/\[\s*"((?:[^"\\]|\\.)*)"\s*\]/suy, ([, name = ""]) => ({ name: plain(name) })],
  [/\[\s*'((?:[^'\\]|\\.)*)'\s*\]/suy, ([, name = ""]) => ({ name: plain(name) })],
  [
    new RegExp(String.raw`\[\s*\?\s*(${test}(?:&&\s*${test})*)\]`, "uy"),
    ([, tests = ""]) => ({ where: conditionOf(tests) }),
  ],
];

/** All conditions of a filter as one: what stands at a path from the element, against a literal or merely there. */
function conditionOf(source: string): (element: unknown) => boolean {
  const tests = Array.from(source.matchAll(new RegExp(test, "gu")), ([each]) => testOf(each));
  const [only] = tests;
  return tests.length === 1 && only ? only : (element) => tests.every((holds) => holds(element));
}

function testOf(source: string): (element: unknown) => boolean {
  const [, path = "", operator, literal = ""] = /^(.+?)\s*(?:([=!]=)\s*(.+?))?\s*$/su.exec(source) ?? [];
  const { first } = compilePath(path);
  if (operator === undefined) return (element) => first(element) !== undefined;
  const value = literalIn(literal);
  return operator === "==" ? (element) => first(element) === value : (element) => first(element) !== value;
}

function literalIn(source: string): string | number | boolean | null {
  if (/^["']/.test(source)) return plain(source.slice(1, -1));
  const value = parseJson(source);
  if (value === undefined)
    throw new PathError(`${source} is no value to compare with: expected a text, a number, true, false or null`);
  return value as number | boolean | null;
}

function parse(source: string): Step[] {
  if (!/^[$@]/.test(source)) throw new PathError(`"${source}" is not a JSONPath: expected "$" at the start`);
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
  if (source[at] === "[") return source.indexOf("]", at) < 0 ? '"]"' : "an index, a quoted name, * or a filter";
  return '"." or "["';
}

/** A quoted name without its escapes. */
function plain(quoted: string): string {
  return quoted.replace(/\\(.)/gsu, "$1");
}
