import { Unreadable } from "../fault";
import type { Judged } from "../outcome";
import { Phrase } from "../phrase";
import type { Seen } from "../seen";
import { calls, rounds } from "./calls";
import { carried, cites } from "./cites";
import { declines } from "./declines";
import { ends } from "./ends";
import type { ExpectationKind, Expects } from "./expectation";
import { statesFromPassages, unknowing } from "./from-passages";
import { has } from "./has";
import { is } from "./is";
import { fits, isJson, valueAt } from "./json";
import { length } from "./length";
import { like } from "./like";
import { matches } from "./matches";
import { meets } from "./rubric";
import { says } from "./says";
import { factsOf, states, statesOther } from "./states";
import { wasSent } from "./was-sent";
import { costs, within } from "./within";
import { writtenIn } from "./written-in";

/** Every kind of expectation, in the order in which a line is read as one of them. */
const kinds = {
  unknowing,
  "states-from-passages": statesFromPassages,
  says,
  states,
  "states-other": statesOther,
  meets,
  matches,
  calls,
  rounds,
  length,
  has,
  json: isJson,
  fits,
  "value-at": valueAt,
  "written-in": writtenIn,
  like,
  is,
  ends,
  declines,
  "was-sent": wasSent,
  cites,
  carried,
  within,
  costs,
};
type Kinds = typeof kinds;
type Kind = keyof Kinds;
export type Expectation = { [K in Kind]: Kinds[K] extends ExpectationKind<infer E, infer _> ? E : never }[Kind];

/** What is expected, and the line on which it stands. */
export interface Expected {
  line: number;
  expectation: Expectation;
}

/** Ways to write expectations, by kind. */
export const expectationForms: readonly (readonly string[])[] = Object.values(kinds).map(({ forms }) => forms);

/** An expectation from a line. @throws {Unreadable} */
export function readExpectation(text: string): Expectation {
  const phrase = new Phrase(text);
  for (const kind of Object.values(kinds) as ExpectationKind<Expectation, unknown>[]) {
    const read = kind.read(phrase);
    if (!read) {
      phrase.restart();
      continue;
    }
    if (phrase.left !== "")
      throw new Unreadable(`"${phrase.left}" is too much`, "Leave it out, or put it on a line of its own.");
    return withoutUndefined(read);
  }
  throw new Unreadable(
    `"${text.length > 60 ? `${text.slice(0, 59)}…` : text}" is no expectation`,
    "Begin it with says, states, at most, has, is, fits, at $, ends, declines, turn, cites, was given, calls, meets, first text or costs.",
  );
}

export function writeExpectation(expectation: Expectation): string {
  return kindOf(expectation).write(expectation);
}

/** Holds an expectation against what was seen. */
export function judge({ line, expectation }: Expected, seen: Seen): Judged {
  const { isMet, saw, isOpinion } = kindOf(expectation).judge(expectation, seen);
  const outcome = isMet === undefined ? "silent" : isMet !== (expectation.not === true) ? "held" : "broke";
  return { line, outcome, saw, ...(isOpinion ? { isOpinion: true as const } : {}) };
}

/** What was seen, as it is told: it follows on "it …". */
export function tellJudged(expectation: Expectation, { saw }: Pick<Judged, "saw">): string {
  return kindOf(expectation).tell(saw, expectation);
}

/** Words and facts that a reply must have been told to meet an expectation. */
export function needsOf(expectation: Expectation): readonly string[] {
  return kindOf(expectation).needs?.(expectation) ?? [];
}

/** The facts that the expectations of one reply name. */
export function namedIn(expected: readonly Expected[]): string[] {
  return expected.flatMap(({ expectation }) => (expectation.kind === "states" ? factsOf(expectation.text) : []));
}

function kindOf(expectation: Expectation): ExpectationKind<Expectation, unknown> {
  return kinds[expectation.kind] as ExpectationKind<Expectation, unknown>;
}

function withoutUndefined<T extends Expects>(value: T): T {
  return Object.fromEntries(Object.entries(value).filter(([, each]) => each !== undefined)) as T;
}
