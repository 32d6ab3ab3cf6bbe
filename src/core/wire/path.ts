import { isDeeperThan } from "./json";
import { type Operand, type Operator, type Query, type Step, stepsIn, type Test } from "./path-syntax";

export { PathError } from "./path-syntax";

/**
 * Where something is in a JSON document: the part of JSONPath (RFC 9535) that profiles need, which
 * is names, indexes, `[*]` and filters such as `[?@.kind == "text"]`, `[?@.kind != "note" && !@.done]`
 * and `[?@.kind]`. A path is compiled once and then read many times.
 */

/** A compiled path. */
export interface Path {
  /** Its text, as written. */
  source: string;
  /** The first value at the path, or undefined when there is none. */
  first(document: unknown): unknown;
  /** All values at the path, in document order. */
  all(document: unknown): unknown[];
  /** The texts at the path as one. */
  joined(document: unknown): string;
  /** Where those values stand: the names and indexes that lead to each. */
  places(document: unknown): (string | number)[][];
  /** Whether it can find more than one value. */
  isMany: boolean;
}

/**
 * Compiles a path such as `$.choices[0].delta.content` or `$.data[*].id`. It begins with `$`, the
 * document, or with `@`, the element that a rule goes through.
 * @throws {PathError} naming the place and what was expected there.
 */
export function compilePath(source: string): Path {
  const path = stepsIn(source);
  const isMany = path.some(isManyStep);
  const places = (document: unknown) => placesOf(document, path, [], document);
  if (!isMany) return { source, isMany, places, ...readingOne(readAlong(path)) };
  const loop = path.findIndex(isManyStep);
  const reading = path.findLastIndex(isManyStep) === loop ? readingLoop(path, loop) : readingAll(path);
  return { source, isMany, places, ...reading };
}

type Reading = Pick<Path, "first" | "all" | "joined">;

/** What is given where nothing stands at a path: most events have nothing at most paths. */
const nothing: unknown[] = [];

function isManyStep(step: Step): step is "all" | { where: Test } {
  return step === "all" || "where" in step;
}

function readingOne(first: Read): Reading {
  return {
    first,
    all: (document) => {
      const found = first(document);
      return found === undefined ? nothing : [found];
    },
    joined: (document) => {
      const found = first(document);
      return typeof found === "string" ? found : "";
    },
  };
}

/** A path that goes through one list, as nearly all that do: read in one plain loop, since it is read for every event. */
function readingLoop(path: readonly Step[], loop: number): Reading {
  const step = path[loop] as "all" | { where: Test };
  const listOf = readAlong(path.slice(0, loop));
  const isIn = step === "all" ? undefined : filterOf(step.where);
  const read = loop === path.length - 1 ? undefined : readAlong(path.slice(loop + 1));
  const all = (document: unknown): unknown[] => {
    const list = elementsOf(listOf(document));
    let found = nothing;
    for (let at = 0; at < list.length; at++) {
      const element = list[at];
      if (isIn !== undefined && !isIn(element, document)) continue;
      const value = read === undefined ? element : read(element);
      if (value === undefined) continue;
      if (found === nothing) found = [value];
      else found.push(value);
    }
    return found;
  };
  const joined = (document: unknown): string => {
    const list = elementsOf(listOf(document));
    let text = "";
    for (let at = 0; at < list.length; at++) {
      const element = list[at];
      if (isIn !== undefined && !isIn(element, document)) continue;
      const value = read === undefined ? element : read(element);
      if (typeof value === "string") text = text === "" ? value : text + value;
    }
    return text;
  };
  return { all, joined, first: (document) => all(document)[0] };
}

/** A path that goes through lists in lists. */
function readingAll(path: readonly Step[]): Reading {
  const walk = path.reduceRight<Walk>(
    (next, step) => walkOf(step, next),
    (value, visit) => visit(value),
  );
  const all = (document: unknown) => {
    const found: unknown[] = [];
    if (document !== undefined) walk(document, (value) => found.push(value), document);
    return found;
  };
  const joined = (document: unknown) =>
    all(document)
      .filter((each) => typeof each === "string")
      .join("");
  return { all, joined, first: (document) => all(document)[0] };
}

/** Reads the one value to which names and indexes lead. */
function readAlong(path: readonly Step[]): Read {
  const reads = path.map((step) => readOf(step as { name: string } | { index: number }));
  const [first, second, third, more] = reads;
  if (!first) return (document) => document;
  if (!second) return first;
  // short paths, as nearly all are, without a loop: they are read for every event
  if (!third) return (document) => second(first(document));
  if (!more)
    return (document) => {
      const value = first(document);
      return value === undefined ? undefined : third(second(value));
    };
  return (document) => {
    let value = document;
    for (const read of reads) {
      if (value === undefined) return undefined;
      value = read(value);
    }
    return value;
  };
}

function placesOf(
  value: unknown,
  [step, ...rest]: readonly Step[],
  trail: (string | number)[],
  document: unknown,
): (string | number)[][] {
  if (step === undefined) return value === undefined ? [] : [trail];
  if (typeof value !== "object" || value === null) return [];
  const on = (name: string | number, inner: unknown) => placesOf(inner, rest, [...trail, name], document);
  if (step !== "all" && "name" in step) return on(step.name, readOf(step)(value));
  if (step !== "all" && "index" in step)
    return Array.isArray(value) ? on(step.index < 0 ? value.length + step.index : step.index, readOf(step)(value)) : [];
  const isIn = step === "all" ? () => true : filterOf(step.where);
  return Object.entries(value).flatMap(([name, element]) =>
    isIn(element, document) ? on(Array.isArray(value) ? Number(name) : name, element) : [],
  );
}

/** A path to one place, written as `$.a[0]["odd name"]`. */
export function pathTo(steps: readonly (string | number)[]): string {
  return steps.reduce<string>((path, step) => {
    if (typeof step === "number") return `${path}[${step}]`;
    return /^[\p{L}_][\p{L}\p{N}_]*$/u.test(step) ? `${path}.${step}` : `${path}[${JSON.stringify(step)}]`;
  }, "$");
}

/** The steps of a path to one place; undefined for one that leads to several. */
export function stepsOf(source: string): (string | number)[] | undefined {
  const steps: (string | number)[] = [];
  for (const step of stepsIn(source)) {
    if (step === "all" || "where" in step) return undefined;
    steps.push("name" in step ? step.name : step.index);
  }
  return steps;
}

type Read = (value: unknown) => unknown;
type Walk = (value: unknown, visit: (value: unknown) => void, document: unknown) => void;
type Filter = (element: unknown, document: unknown) => boolean;

/** Goes one step from a value, to all that it leads to, and on from there. */
function walkOf(step: Step, next: Walk): Walk {
  if (step === "all") return (value, visit, document) => elements(value, (element) => next(element, visit, document));
  if ("where" in step) {
    const isIn = filterOf(step.where);
    return (value, visit, document) =>
      elements(value, (element) => {
        if (isIn(element, document)) next(element, visit, document);
      });
  }
  const read = readOf(step);
  return (value, visit, document) => {
    const found = read(value);
    if (found !== undefined) next(found, visit, document);
  };
}

function elementsOf(value: unknown): readonly unknown[] {
  if (Array.isArray(value)) return value;
  return typeof value === "object" && value !== null ? Object.values(value) : nothing;
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

/** A filter compiled: whether it lets an element of a document through. */
function filterOf(test: Test): Filter {
  switch (test.kind) {
    case "there": {
      const isThere = thereOf(test.path);
      return (element, document) => isThere(element, document);
    }
    case "compare":
      return comparisonOf(test.operator, test.left, test.right);
    case "not": {
      const holds = filterOf(test.of);
      return (element, document) => !holds(element, document);
    }
    case "all": {
      const parts = test.of.map(filterOf);
      return (element, document) => parts.every((holds) => holds(element, document));
    }
    case "any": {
      const parts = test.of.map(filterOf);
      return (element, document) => parts.some((holds) => holds(element, document));
    }
  }
}

function thereOf({ from, steps }: Query): Filter {
  const walk = steps.reduceRight<Walk>(
    (next, step) => walkOf(step, next),
    (value, visit) => visit(value),
  );
  return (element, document) => {
    let isThere = false;
    const start = from === "@" ? element : document;
    walk(start, () => (isThere = true), document);
    return isThere;
  };
}

function comparisonOf(operator: Operator, left: Operand, right: Operand): Filter {
  // what most filters ask: whether a member is a text or a number
  if ("path" in left && left.path.from === "@" && "literal" in right && (operator === "==" || operator === "!=")) {
    const read = readAlong(left.path.steps);
    const { literal } = right;
    return operator === "==" ? (element) => read(element) === literal : (element) => read(element) !== literal;
  }
  const [leftOf, rightOf] = [operandOf(left), operandOf(right)];
  const holds = comparisons[operator];
  return (element, document) => holds(leftOf(element, document), rightOf(element, document));
}

function operandOf(operand: Operand): (element: unknown, document: unknown) => unknown {
  if ("literal" in operand) return () => operand.literal;
  const read = readAlong(operand.path.steps);
  return operand.path.from === "@" ? (element) => read(element) : (_element, document) => read(document);
}

/** How values compare by 2.3.5.2.2 of the standard; nothing is undefined, which equals nothing alone. */
const comparisons: Record<Operator, (a: unknown, b: unknown) => boolean> = {
  "==": equals,
  "!=": (a, b) => !equals(a, b),
  "<": isLess,
  ">": (a, b) => isLess(b, a),
  "<=": (a, b) => isLess(a, b) || equals(a, b),
  ">=": (a, b) => isLess(b, a) || equals(a, b),
};

function isLess(a: unknown, b: unknown): boolean {
  return (
    (typeof a === "number" && typeof b === "number" && a < b) ||
    (typeof a === "string" && typeof b === "string" && isBefore(a, b))
  );
}

/** Whether a text stands before another by its Unicode scalar values. */
function isBefore(a: string, b: string): boolean {
  const [left, right] = [[...a], [...b]];
  const at = left.findIndex((sign, place) => sign !== right[place]);
  if (at < 0) return left.length < right.length;
  return (left[at]?.codePointAt(0) ?? 0) < (right[at]?.codePointAt(0) ?? -1);
}

function equals(a: unknown, b: unknown): boolean {
  if (typeof a !== "object" || a === null || typeof b !== "object" || b === null) return a === b;
  return !isDeeperThan(a) && hasEqualMembers(a, b);
}

function hasEqualMembers(a: object, b: object): boolean {
  const [left, right] = [Object.entries(a), Object.entries(b)];
  return (
    Array.isArray(a) === Array.isArray(b) &&
    left.length === right.length &&
    left.every(([name, value]) => Object.hasOwn(b, name) && equals(value, (b as Record<string, unknown>)[name]))
  );
}
