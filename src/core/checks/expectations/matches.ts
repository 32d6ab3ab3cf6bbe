import { Unreadable } from "../fault";
import { inQuotes } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

export interface Matches extends Expects {
  kind: "matches";
  source: string;
  flags: string;
}

/** A regular expression as JavaScript knows it (ECMA-262). */
export const matches: ExpectationKind<Matches, { said: string; ranAway?: true }> = {
  forms: ["matches /\\b\\d{1,2}:\\d{2}\\b/", "does not match /as a model/i"],
  read(phrase) {
    const form = phrase.takesOne(["matches", "does not match"]);
    if (!form) return undefined;
    const pattern = phrase.pattern();
    if (!pattern) throw new Unreadable("there is no pattern", "Write it between slashes: /…/.");
    if (/[^imsu]/.test(pattern.flags))
      throw new Unreadable(`the pattern has the flag ${pattern.flags}`, "A pattern may have the flags i, m, s and u.");
    try {
      new RegExp(pattern.source, pattern.flags);
    } catch (error) {
      throw new Unreadable(
        `the pattern can't be read: ${(error as Error).message}`,
        "Put a \\ before signs that mean themselves.",
      );
    }
    return { kind: "matches", ...pattern, not: form === "does not match" || undefined };
  },
  write: ({ source, flags, not }) => `${not ? "does not match" : "matches"} /${source}/${flags}`,
  judge(pattern, { text, matches: found }) {
    const isMet = found(pattern);
    return { isMet, saw: { said: excerpt(text), ranAway: isMet === undefined ? true : undefined } };
  },
  tell: ({ said, ranAway }) =>
    ranAway ? "was not searched to its end: the pattern ran away, and was cut off" : `said ${inQuotes(said)}`,
};
