import type { z } from "zod";
import { type Problem, problem } from "@/core/problem/problem";

/** What a value holds, or what is wrong with it; `param` is the path of the member that is. */
export type Parsed<T> = { ok: true; value: T } | { ok: false; problem: Problem; param?: string };

type Issue = z.core.$ZodIssue;
type Path = readonly PropertyKey[];

/** Parses what came over HTTP; what does not fit is a bad-request that names the place, and says what it should be. */
export function parse<S extends z.ZodType>(schema: S, input: unknown): Parsed<z.output<S>> {
  const result = schema.safeParse(input);
  if (result.success) return { ok: true, value: result.data };
  const [issue] = result.error.issues;
  if (!issue) return { ok: false, problem: problem("bad-request", "The body does not fit.") };
  const { detail, param } = describe(issue, input, []);
  return { ok: false, problem: problem("bad-request", detail), ...(param === "" ? {} : { param }) };
}

/** One issue in a sentence, and where it stands. @param above the path of the value that the issue's own path begins at */
function describe(issue: Issue, input: unknown, above: Path): { detail: string; param: string } {
  const path = [...above, ...issue.path];
  const value = valueAt(input, path);
  const nearest = issue.code === "invalid_union" && !isOurs(issue) ? nearestOf(issue) : undefined;
  if (nearest) return describe(nearest, input, path);
  const place = placeOf(path);
  if (issue.code === "unrecognized_keys") {
    const names = issue.keys.map((key) => `\`${key}\``).join(", ");
    const param = placeOf([...path, issue.keys[0] ?? ""]);
    return { detail: `There is no field ${names}${place === "" ? "" : ` in \`${place}\``}.`, param };
  }
  return { detail: `${place === "" ? "The body" : `\`${place}\``} ${wordsFor(issue, value)}.`, param: place };
}

/** Whether a schema of ours words the issue: it then says what is wrong as the end of a sentence. */
function isOurs({ message }: Issue): boolean {
  return /^[a-z]/.test(message);
}

/** Of the ways in which none of several schemas fits, the one that came furthest into the value. */
function nearestOf({ errors }: z.core.$ZodIssueInvalidUnion): Issue | undefined {
  const firsts = errors.flatMap(([first]) => first ?? []);
  const depth = Math.max(...firsts.map(({ path }) => path.length));
  return depth > 0 ? firsts.find(({ path }) => path.length === depth) : undefined;
}

function wordsFor(issue: Issue, value: unknown): string {
  if (isOurs(issue)) return issue.message;
  switch (issue.code) {
    case "invalid_type":
      return value === undefined
        ? `is missing; it should be ${expected[issue.expected] ?? issue.expected}`
        : `is ${kindOf(value)}, and should be ${expected[issue.expected] ?? issue.expected}`;
    case "invalid_value":
      return `is ${shown(value)}, and should be ${issue.values.map(shown).join(" or ")}`;
    case "invalid_union":
      return `is ${kindOf(value)} of none of the kinds that it may be`;
    case "too_small":
      return sizeWords(issue.origin, "fewer", "below", Number(issue.minimum));
    case "too_big":
      return sizeWords(issue.origin, "more", "above", Number(issue.maximum));
    case "invalid_key":
      return issue.issues[0] ? `has a name that ${wordsFor(issue.issues[0], undefined)}` : "has a name that is none";
    default:
      return "is not in a form that it may have";
  }
}

const expected: Record<string, string> = {
  string: "text",
  number: "a number",
  int: "a whole number",
  boolean: "true or false",
  array: "a list",
  object: "an object",
  record: "an object",
  null: "null",
};

function kindOf(value: unknown): string {
  if (value === null) return "null";
  if (Array.isArray(value)) return "a list";
  if (typeof value === "boolean") return String(value);
  return { string: "text", number: "a number", object: "an object" }[typeof value as string] ?? "nothing";
}

function sizeWords(origin: string, count: string, side: string, bound: number): string {
  if (origin === "string") return `has ${count} than ${bound} characters`;
  if (origin === "array" || origin === "set") return `has ${count} than ${bound} entries`;
  return `is ${side} ${bound}`;
}

/** A value as an error tells it, cut short. */
function shown(value: unknown): string {
  if (value === undefined) return "missing";
  const text = JSON.stringify(value) ?? String(value);
  return text.length > 60 ? `${text.slice(0, 59)}…` : text;
}

/** A path as it is written in a program: `messages[1].text`. */
function placeOf(path: Path): string {
  return path.reduce<string>(
    (place, step) => (typeof step === "number" ? `${place}[${step}]` : `${place}${place && "."}${String(step)}`),
    "",
  );
}

function valueAt(input: unknown, path: Path): unknown {
  return path.reduce<unknown>(
    (value, step) =>
      typeof value === "object" && value !== null ? (value as Record<PropertyKey, unknown>)[step] : undefined,
    input,
  );
}
