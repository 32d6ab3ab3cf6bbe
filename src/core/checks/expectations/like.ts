import { Unreadable } from "../fault";
import { likeness } from "../measures";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

interface Like extends Expects {
  kind: "like";
  text: string;
  /** Hundredths of likeness. */
  least: number;
}

const usual = 50;

/** How like the reply is to a given answer: the F-measure of the longest common subsequence of their words. */
export const like: ExpectationKind<Like, { likeness: number; said: string }> = {
  forms: [
    'is like "The 9:40 reaches Brindle at 10:05."',
    'is like "Yes, it does." by 80%',
    'is unlike "I do not know."',
  ],
  read(phrase) {
    const form = phrase.takesOne(["is like", "is unlike"]);
    if (!form) return undefined;
    const text = phrase.text1("the answer that it is like");
    const least = phrase.takes("by") ? phrase.number() : usual;
    if (least === undefined || !Number.isInteger(least) || least < 1 || least > 100)
      throw new Unreadable("how like is missing", "Write a whole number of percent from 1 to 100: by 80%.");
    phrase.takes("%");
    return { kind: "like", text, least, not: form === "is unlike" || undefined };
  },
  write: ({ text, least, not }) =>
    `${not ? "is unlike" : "is like"} ${inQuotes(text)}${least === usual ? "" : ` by ${least}%`}`,
  judge({ text: given, least }, { text }) {
    const of = likeness(given, text);
    return { isMet: of * 100 >= least, saw: { likeness: of, said: excerpt(text) } };
  },
  tell: ({ likeness: of, said }) => `is ${Math.round(of * 100)}% like it: ${inQuotes(said)}`,
};
