import { decliningIn } from "../declining";
import { likeness } from "../measures";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";
import { isIn } from "./says";

interface Declines extends Expects {
  kind: "declines";
  /** The sentence to decline with; undefined for the one that the prompt gives. */
  text?: string;
}

/** How like its sentence a reply has to be, where it does not say just that. */
const enough = 0.75;

/** The reply says the sentence to decline with, or one much like it. */
export const declines: ExpectationKind<Declines, { said: string; sentence: string | null }> = {
  forms: ["declines", 'declines with "That lies beyond the quay."', "does not decline"],
  read(phrase) {
    const form = phrase.takesOne(["declines", "does not decline"]);
    if (!form) return undefined;
    const text = phrase.takes("with") ? phrase.text1("what it declines with") : undefined;
    return { kind: "declines", ...(text === undefined ? {} : { text }), not: form === "does not decline" || undefined };
  },
  write({ text, not }) {
    return `${not ? "does not decline" : "declines"}${text === undefined ? "" : ` with ${inQuotes(text)}`}`;
  },
  judge({ text: given }, { text, prompt }) {
    const sentences = given === undefined ? decliningIn(prompt) : [given];
    const isMet = sentences.some((sentence) => isIn(sentence, text) || likeness(sentence, text) >= enough);
    const sentence = sentences[0] ?? null;
    return { isMet: sentence === null ? undefined : isMet, saw: { said: excerpt(text), sentence } };
  },
  tell: ({ said, sentence }) =>
    sentence === null ? "could not be judged: its prompt gives no sentence to decline with" : `said ${inQuotes(said)}`,
};
