import { valueBy } from "./by-schema";
import { dayIn } from "./facts";
import { choicesFrom, seedOf } from "./random";
import { stems } from "./skills/given";
import { numberFrom } from "./words";
import { places } from "./world";

/** A tool that a request offers. */
export interface Offered {
  name: string;
  description: string;
  /** A JSON Schema of its arguments. */
  parameters: unknown;
}

/** A call of a tool. */
export interface Call {
  name: string;
  arguments: Record<string, unknown>;
  /** How the arguments are sent, where that is no JSON. */
  written?: string;
}

/** A call that was answered since the newest question. */
export interface Called extends Call {
  result: string;
}

/**
 * The calls that a question calls for and that were not made yet: of each tool that bears on it the first, since what
 * one says may change what else is asked.
 */
export function callsFor(question: string, offered: readonly Offered[], made: readonly Called[]): Call[] {
  return offered.flatMap((tool) => {
    if (!bearsOn(tool, question)) return [];
    const isMade = (wanted: Call) =>
      made.some((each) => each.name === tool.name && same(each.arguments, wanted.arguments));
    return wantedOf(tool, question)
      .filter((wanted) => !isMade(wanted))
      .slice(0, 1);
  });
}

/** A call of one tool that has to be made, whatever is asked. */
export function forcedCall(question: string, [tool]: readonly Offered[]): Call {
  const { name = "", parameters } = tool ?? {};
  const made = valueBy(parameters ?? {}, { question, text: question }, choicesFrom(seedOf(question)));
  return { name, arguments: made !== null && typeof made === "object" ? (made as Call["arguments"]) : {} };
}

/** What goes wrong with the calls of a model, on purpose. */
export type Misplaced = "not-offered" | "not-json" | "without-end";

/** Calls with what goes wrong with them. */
export function misplaced(
  how: Misplaced,
  calls: readonly Call[],
  question: string,
  offered: readonly Offered[],
  made: readonly Called[],
): Call[] {
  switch (how) {
    case "not-offered":
      return made.length > 0 ? [...calls] : [{ name: "ring_the_bell", arguments: { times: 2 } }];
    case "not-json":
      // told what was wrong, it mends it
      return made.length > 0
        ? [...calls]
        : calls.map((call) => ({ ...call, written: JSON.stringify(call.arguments).replace(/[}"\s]*$/, "") }));
    case "without-end":
      return [calls[0] ?? forcedCall(question, offered)];
  }
}

/** The arguments of a call as they are sent. */
export function argumentsOf({ arguments: given, written }: Call): string {
  return written ?? JSON.stringify(given);
}

/** What was answered, in words. */
export function saidOfCalls(made: readonly Called[]): string {
  return made
    .map(({ name, arguments: given, result }) => {
      const about = Object.values(given).map(String).join(", ");
      return `${capital(name.replace(/[_-]+/g, " "))}${about ? ` for ${about}` : ""}: ${flat(result).replace(/[.\s]+$/, "")}.`;
    })
    .join(" ");
}

function bearsOn({ name, description }: Offered, question: string): boolean {
  const asked = stems(question);
  return [...stems(`${name.replace(/[_-]+/g, " ")} ${description}`)].some((word) => asked.has(word));
}

interface Schema {
  type?: string | string[];
  enum?: unknown[];
  properties?: Record<string, Schema>;
  required?: string[];
}

/** The calls of a tool that a question wants: one for each value of the first argument that has several. */
function wantedOf({ name, parameters }: Offered, question: string): Call[] {
  const { properties = {}, required = [] } = (parameters ?? {}) as Schema;
  const found = Object.entries(properties).map(
    ([property, schema]) => [property, valuesIn(question, property, schema)] as const,
  );
  if (found.some(([property, values]) => required.includes(property) && values.length === 0)) return [];
  const several = found.find(([, values]) => values.length > 1);
  const rest = Object.fromEntries(
    found.flatMap(([property, [first]]) => (first === undefined ? [] : [[property, first]])),
  );
  if (!several) return [{ name, arguments: rest }];
  return several[1].map((value) => ({ name, arguments: { ...rest, [several[0]]: value } }));
}

/** What a question gives for an argument, by the name and the type of that. */
function valuesIn(question: string, property: string, { type, enum: options }: Schema): unknown[] {
  const text = question.toLowerCase();
  if (options) return options.filter((option) => text.includes(String(option).toLowerCase()));
  if (type === "integer" || type === "number") {
    const number = numberFrom(
      /(?<![\d:.])\b(\d+(?:\.\d+)?|two|three|four|five|six|ten|twelve)\b(?![:.]\d)/i.exec(question)?.[1] ?? "",
    );
    return number === undefined || Number.isNaN(number) ? [] : [number];
  }
  if (type === "boolean")
    return [stems(property).size > 0 && [...stems(property)].some((word) => stems(question).has(word))];
  if (/time|(?:^|_)at$/i.test(property))
    return [/\d{1,2}[:.]\d{2}/.exec(question)?.[0]].filter((each) => each !== undefined);
  if (/day|date/i.test(property)) return [dayIn(question)].filter((day) => day !== undefined);
  const quoted = [...question.matchAll(/["“]([^"”]+)["”]/g)].map(([, inner]) => inner);
  if (quoted.length > 0) return quoted;
  const named = places.filter((place) => text.includes(place.toLowerCase()));
  if (named.length > 0) return named;
  return [...question.matchAll(/(?<=\S )\p{Lu}\p{L}+(?: \p{Lu}\p{L}+)*/gu)].map(([name]) => name);
}

/** A result on one line; of a document its members. */
function flat(result: string): string {
  let value: unknown;
  try {
    value = JSON.parse(result);
  } catch {
    return result.replace(/\s+/g, " ").trim();
  }
  return words(value);
}

function words(value: unknown): string {
  if (Array.isArray(value)) return value.map(words).join("; ");
  if (typeof value !== "object" || value === null) return String(value);
  return Object.entries(value)
    .map(([name, each]) => `${name} ${words(each)}`)
    .join(", ");
}

function same(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
