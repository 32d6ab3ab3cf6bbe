import { unstatedIn } from "../../sources/unstated";
import { likeness } from "../measures";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";
import { isIn } from "./says";

interface StatesFromPassages extends Expects {
  kind: "states-from-passages";
}

/** Every fact of the reply stands in a passage that it was given, in the answer of a tool, in the message, or in the prompt. */
export const statesFromPassages: ExpectationKind<StatesFromPassages, { facts: string[] }> = {
  forms: ["states only what the passages state"],
  read: (phrase) =>
    phrase.takes("states only what the passages state") ? { kind: "states-from-passages" } : undefined,
  write: () => "states only what the passages state",
  judge(_, { text, message, prompt, passages, calls }) {
    const given = passages.filter(({ mark }) => mark !== "").map((each) => `${each.where}. ${each.text}`);
    const facts = unstatedIn(text, [message, prompt, ...given, ...calls.map(({ result }) => result)]);
    return { isMet: facts.length === 0, saw: { facts } };
  },
  tell: ({ facts }) =>
    facts.length === 0 ? "stated nothing else" : `stated ${facts.join(", ")}, which no passage states`,
};

interface Unknowing extends Expects {
  kind: "unknowing";
}

/** How like its sentence a reply has to be, where it does not say just that. */
const enough = 0.75;

/** The reply says that the documents hold no answer, as the app's sources tell it to. */
export const unknowing: ExpectationKind<Unknowing, { said: string; sentence: string | null }> = {
  forms: ["says that it does not know", "does not say that it does not know"],
  read(phrase) {
    const form = phrase.takesOne(["says that it does not know", "does not say that it does not know"]);
    return form && { kind: "unknowing", not: form.startsWith("does not") || undefined };
  },
  write: ({ not }) => (not ? "does not say that it does not know" : "says that it does not know"),
  judge(_, { text, unknown }) {
    const isMet = unknown === null ? undefined : isIn(unknown, text) || likeness(unknown, text) >= enough;
    return { isMet, saw: { said: excerpt(text), sentence: unknown } };
  },
  tell: ({ said, sentence }) =>
    sentence === null ? "could not be judged: it answers from no documents alone" : `said ${inQuotes(said)}`,
};
