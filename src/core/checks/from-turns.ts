import { factKey, factsIn } from "../comparing/facts/facts";
import { decliningIn } from "./declining";
import { type Expectation, judge, readExpectation } from "./expectations/expectations";
import { isIn } from "./expectations/says";
import { sentencesOf } from "./measures";
import { printScript } from "./parse";
import { inQuotes } from "./phrase";
import type { Saying } from "./script";
import type { Seen } from "./seen";

/** A turn of a conversation of which a check is made. */
export interface SaidTurn {
  visitor: string;
  app: string;
  /** What was said of the reply. */
  rating: "good" | "bad" | null;
  /** Whether a person put the reply right. */
  isCorrected: boolean;
  /** Facts of the reply that were marked, by their keys. */
  marks: readonly { fact: string; isRight: boolean }[];
}

/** Facts of a reply that are expected at most. */
const mostFacts = 6;

/**
 * A check of a conversation, as a script: what was said before is given, and of what is asked the replies become
 * expectations, by their facts and their form. It holds of what was said, and is there to be weeded.
 * @param prompt that of the app, which may say how to decline
 */
export function checkFrom(of: {
  name: string;
  before: readonly SaidTurn[];
  asked: readonly SaidTurn[];
  prompt: string;
}): string {
  const { name, before, asked, prompt } = of;
  const says: Saying[] = [
    { kind: "check", name },
    ...before.flatMap(({ visitor, app }): Saying[] => [
      { kind: "visitor", text: tidy(visitor) },
      { kind: "app", text: tidy(app) },
    ]),
    ...asked.flatMap((turn): Saying[] => [
      { kind: "visitor", text: tidy(turn.visitor) },
      ...expectationsOf(turn, prompt).map((expectation): Saying => ({ kind: "expect", expectation })),
    ]),
  ];
  return printScript({ lines: says.map((each, at) => ({ line: at + 1, says: each })) });
}

/** What is expected of a reply that was given. */
function expectationsOf(turn: SaidTurn, prompt: string): Expectation[] {
  const { visitor, app, rating, isCorrected, marks } = turn;
  const written: string[] = [];
  const marked = new Map(marks.map(({ fact, isRight }) => [fact, isRight]));
  const asked = new Set(factsIn(visitor).map(factKey));
  const facts = new Map(factsIn(app).map((fact) => [factKey(fact), fact]));
  const wrong = [...facts].filter(([key]) => marked.get(key) === false);
  for (const [, { said }] of wrong) written.push(`does not state ${inQuotes(said)}`, `does not state ${said}`);
  const isBad = rating === "bad" && !isCorrected;
  if (isBad) written.push(`is unlike ${inQuotes(tidy(app))} by 90%`);
  const declined = decliningIn(prompt).some((sentence) => isIn(sentence, app));
  if (declined && !isBad) written.push("declines");
  else {
    const stated = [...facts].filter(
      ([key, { isDenied }]) =>
        !isDenied && marked.get(key) !== false && (marked.get(key) === true || (!isBad && !asked.has(key))),
    );
    for (const [, { said }] of stated.slice(0, mostFacts)) written.push(`states ${said}`);
    if (!isBad) written.push(...formsOf(app));
  }
  if (isCorrected) written.push(`is like ${inQuotes(tidy(app))}`);
  return unique(written.flatMap(readable));
}

/** The form of a reply: what its Markdown has, whether it is JSON, and about how long it is. */
function formsOf(text: string): string[] {
  const seen = { text } as Seen;
  const isMet = (form: string) => judge({ line: 1, expectation: readExpectation(form) }, seen).outcome === "held";
  const found = ["is JSON", "has a table", "has a list"].find(isMet);
  if (found) return [found];
  const { length } = sentencesOf(text);
  return length === 0 ? [] : ["has no list", `at most ${Math.max(3, Math.ceil(length * 1.5))} sentences`];
}

/** An expectation, where it can be read as one: a fact may be said in a way that alone is none. */
function readable(written: string): Expectation[] {
  try {
    return [readExpectation(written)];
  } catch {
    return [];
  }
}

function unique(expectations: readonly Expectation[]): Expectation[] {
  return [...new Map(expectations.map((each) => [JSON.stringify(each), each])).values()];
}

function tidy(text: string): string {
  return text
    .trim()
    .replace(/[ \t]+$/gm, "")
    .replace(/\r\n?/g, "\n");
}
