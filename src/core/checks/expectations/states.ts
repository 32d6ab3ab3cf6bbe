import { type Fact, type FactKind, factKey, factKinds, factsIn } from "../../comparing/facts/facts";
import { Unreadable } from "../fault";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

interface States extends Expects {
  kind: "states";
  text: string;
}

/** Facts, by what they come to: `9:40` is stated by "twenty to ten". The rules are those of docs/facts.md. */
export const states: ExpectationKind<States, { said: string; facts: string[] }> = {
  forms: ["states 9:40", "states €4.00", 'states "Tansy Holm"', "does not state 17:30"],
  read(phrase) {
    const form = phrase.takesOne(["states", "does not state"]);
    if (!form || /^(?:no )?(?:an)?other\b/i.test(phrase.left)) return undefined;
    const text = phrase.quoted() ?? phrase.rest();
    if (factsOf(text).length === 0)
      throw new Unreadable(
        `${inQuotes(text)} holds no fact`,
        "Write a time, a date, an amount, a figure with what it counts, or a name; for words there is `says`.",
      );
    return { kind: "states", text, not: form === "does not state" || undefined };
  },
  write: ({ text, not }) => `${not ? "does not state" : "states"} ${isPlain(text) ? text : inQuotes(text)}`,
  judge({ text: wanted, not }, { text }) {
    const said = factsIn(text);
    const stated = new Set(said.map(factKey));
    const facts = factsOf(wanted);
    const isMet = not ? facts.some((each) => stated.has(each)) : facts.every((each) => stated.has(each));
    const kinds = new Set(factsIn(wanted).map(({ kind }) => kind));
    const ofKind = said.filter(({ kind }) => kinds.size === 0 || kinds.has(kind));
    return { isMet, saw: { said: excerpt(text), facts: [...new Set(ofKind.map((fact) => fact.said))].slice(0, 12) } };
  },
  tell: ({ said, facts }) =>
    facts.length > 0 ? `stated ${facts.join(", ")}: ${inQuotes(said)}` : `said ${inQuotes(said)}`,
  needs: ({ text, not }) => (not ? [] : [text]),
};

/** The facts that a text names; a text that is none of them by the rules is a name where it is written like one. */
export function factsOf(text: string): string[] {
  const found = factsIn(text).map(factKey);
  if (found.length > 0) return found;
  // names are found inside of sentences alone
  return factsIn(`It is ${text}.`).map(factKey);
}

function isPlain(text: string): boolean {
  return text === text.trim() && !/["“„«\\\n\t|#]/.test(text) && !/^(?:no )?(?:an)?other\b/i.test(text);
}

interface StatesOther extends Expects {
  kind: "states-other";
  /** Undefined for facts of any kind. */
  of?: FactKind;
}

/** Facts beside those that the expectations of the reply name, and that the visitor says. */
export const statesOther: ExpectationKind<StatesOther, { facts: string[] }> = {
  forms: ["states no other time", "states no other amount", "states no other fact", "states another name"],
  read(phrase) {
    const form = phrase.takesOne(["states no other", "states another"]);
    if (!form) return undefined;
    const of = phrase.takesOne([...factKinds, "fact"]);
    if (!of) throw new Unreadable("what kind of fact is missing", `Write one of ${factKinds.join(", ")}, or fact.`);
    const not = form === "states no other" || undefined;
    return { kind: "states-other", ...(of === "fact" ? {} : { of }), not };
  },
  write: ({ of = "fact", not }) => `${not ? "states no other" : "states another"} ${of}`,
  judge({ of }, { text, message, named }) {
    const known = new Set([...named, ...factsIn(message).map(factKey)]);
    const others = factsIn(text).filter(
      (fact: Fact) => (of === undefined || fact.kind === of) && !fact.isDenied && !known.has(factKey(fact)),
    );
    return { isMet: others.length > 0, saw: { facts: [...new Set(others.map(({ said }) => said))].slice(0, 12) } };
  },
  tell: ({ facts }) => (facts.length > 0 ? `stated ${facts.join(", ")} too` : "stated no other"),
};
