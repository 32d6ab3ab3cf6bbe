import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

interface Is extends Expects {
  kind: "is";
  text: string;
}

/** The whole reply, but for white space. */
export const is: ExpectationKind<Is, { said: string }> = {
  forms: ['is "Yes."', 'is not "No."'],
  read(phrase) {
    const form = phrase.takesOne(["is", "is not"]);
    const text = form && phrase.quoted();
    return text === undefined ? undefined : { kind: "is", text, not: form === "is not" || undefined };
  },
  write: ({ text, not }) => `${not ? "is not" : "is"} ${inQuotes(text)}`,
  judge: ({ text: wanted }, { text }) => ({ isMet: plain(text) === plain(wanted), saw: { said: excerpt(text) } }),
  tell: ({ said }) => `was ${inQuotes(said)}`,
};

function plain(text: string): string {
  return text.replace(/\s+/g, " ").trim();
}
