import { wordsOf } from "../measures";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

interface Says extends Expects {
  kind: "says";
  texts: string[];
}

/** Words that stand in the reply one after another, in whatever case and whatever stands between them. */
export const says: ExpectationKind<Says, { said: string; found: string[] }> = {
  forms: ['says "bicycle"', 'does not say "dog"', 'says one of "sorry", "regret"', 'says none of "maybe", "perhaps"'],
  read(phrase) {
    const form = phrase.takesOne(["says one of", "says none of", "says", "does not say"]);
    if (!form) return undefined;
    const texts = [phrase.text1("what it says")];
    if (form.endsWith("of")) while (phrase.takes(",") || phrase.takes("or")) texts.push(phrase.text1("what it says"));
    return { kind: "says", texts, not: form === "says none of" || form === "does not say" || undefined };
  },
  write({ texts, not }) {
    const listed = texts.map(inQuotes).join(", ");
    if (texts.length > 1) return `${not ? "says none of" : "says one of"} ${listed}`;
    return `${not ? "does not say" : "says"} ${listed}`;
  },
  judge({ texts }, { text }) {
    const found = texts.filter((each) => isIn(each, text));
    return { isMet: found.length > 0, saw: { said: excerpt(text), found } };
  },
  tell: ({ said, found }) => (found.length > 0 ? `said ${found.map(inQuotes).join(", ")}` : `said ${inQuotes(said)}`),
  needs: ({ texts, not }) => (not ? [] : texts),
};

/** Whether words stand in a text, one after another; where there are none, its signs. */
export function isIn(words: string, text: string): boolean {
  const wanted = wordsOf(words);
  if (wanted.length === 0) return text.includes(words.trim());
  const all = wordsOf(text);
  return all.some((_, at) => wanted.every((word, place) => all[at + place] === word));
}
