import type { Json } from "../../wire/json";
import { Unreadable } from "../fault";
import type { SeenCall } from "../seen";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

interface Calls extends Expects {
  kind: "calls";
  /** The tool; any, where none is named. */
  tool?: string;
  /** What its arguments hold, among others. */
  with?: Json;
}

/** The reply calls a tool, with some arguments. */
export const calls: ExpectationKind<Calls, { calls: string[] }> = {
  forms: [
    "calls places_left",
    'calls places_left with {"boat": "9:40"}',
    "does not call book",
    "calls a tool",
    "calls no tool",
  ],
  read(phrase) {
    const any = phrase.takesOne(["calls a tool", "calls no tool"]);
    if (any) return { kind: "calls", not: any === "calls no tool" || undefined };
    const form = phrase.takesOne(["calls", "does not call"]);
    if (!form) return undefined;
    const tool = phrase.word();
    if (!tool) throw new Unreadable("which tool is missing", "Write for example: calls places_left.");
    const not = form === "does not call" || undefined;
    if (!phrase.takes("with")) return { kind: "calls", tool, not };
    const text = phrase.rest();
    try {
      return { kind: "calls", tool, with: JSON.parse(text) as Json, not };
    } catch (error) {
      throw new Unreadable(
        `the arguments are no JSON: ${(error as Error).message}`,
        'Write for example: calls places_left with {"boat": "9:40"}.',
      );
    }
  },
  write({ tool, with: given, not }) {
    if (tool === undefined) return not ? "calls no tool" : "calls a tool";
    const call = `${not ? "does not call" : "calls"} ${tool}`;
    return given === undefined ? call : `${call} with ${JSON.stringify(given)}`;
  },
  judge({ tool, with: given }, { calls }) {
    const isMet = calls.some(
      (call) => (tool === undefined || call.name === tool) && (given === undefined || holds(call.arguments, given)),
    );
    return { isMet, saw: { calls: calls.slice(0, 5).map(written) } };
  },
  tell: ({ calls }) => (calls.length === 0 ? "called no tool" : `called ${calls.join(", ")}`),
};

interface Rounds extends Expects {
  kind: "rounds";
  most: number;
}

/** How often the model was asked once more with what tools said. */
export const rounds: ExpectationKind<Rounds, { rounds: number }> = {
  forms: ["at most 2 rounds", "more than 1 round"],
  read(phrase) {
    const form = phrase.takesOne(["at most", "more than"]);
    const most = form && phrase.number();
    if (most === undefined || !phrase.takesOne(["rounds", "round"])) return undefined;
    return { kind: "rounds", most, not: form === "more than" || undefined };
  },
  write: ({ most, not }) => `${not ? "more than" : "at most"} ${most} ${most === 1 ? "round" : "rounds"}`,
  judge({ most }, { calls }) {
    const taken = new Set(calls.map(({ round }) => round)).size;
    return { isMet: taken <= most, saw: { rounds: taken } };
  },
  tell: ({ rounds }) => `took ${rounds} ${rounds === 1 ? "round" : "rounds"}`,
};

function written({ name, arguments: given }: SeenCall): string {
  return `${name} with ${excerpt(JSON.stringify(given), 80)}`;
}

/** Whether a value holds another: an object each of its members, a list the same list, and all else the same. */
function holds(value: unknown, wanted: Json): boolean {
  if (typeof wanted !== "object" || wanted === null) return value === wanted;
  if (typeof value !== "object" || value === null || Array.isArray(value) !== Array.isArray(wanted)) return false;
  if (Array.isArray(wanted) && (value as unknown[]).length !== wanted.length) return false;
  return Object.entries(wanted).every(([name, each]) => holds((value as Record<string, unknown>)[name], each));
}
