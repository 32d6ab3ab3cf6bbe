import { Unreadable } from "../fault";
import { inQuotes } from "../phrase";
import { type Judgement, longestRubric } from "../rubric";
import type { ExpectationKind, Expects } from "./expectation";

interface Meets extends Expects {
  kind: "meets";
  rubric: string;
}

const unasked: Judgement = { verdict: null, words: "", counts: false };

/** A judge says whether the reply meets a rubric. Until the judge has agreed with those who judge by hand it is an opinion. */
export const meets: ExpectationKind<Meets, Judgement> = {
  forms: ['meets "is polite, and offers another boat"', 'does not meet "promises a refund"'],
  read(phrase) {
    const form = phrase.takesOne(["meets", "does not meet"]);
    if (!form) return undefined;
    const rubric = phrase.text1("the rubric");
    if (rubric.length > longestRubric)
      throw new Unreadable(`the rubric is longer than ${longestRubric} characters`, "Say it in fewer words.");
    return { kind: "meets", rubric, not: form === "does not meet" || undefined };
  },
  write: ({ rubric, not }) => `${not ? "does not meet" : "meets"} ${inQuotes(rubric)}`,
  judge({ rubric }, { judgements }) {
    const saw = judgements?.[rubric] ?? unasked;
    const isMet = saw.counts && saw.verdict !== null ? saw.verdict === "meets" : undefined;
    return { isMet, saw, isOpinion: !saw.counts };
  },
  tell({ verdict, words, counts }) {
    if (verdict === null) return words === "" ? "was not judged: no judge is chosen" : `was not judged: ${words}`;
    const says = `${verdict === "meets" ? "meets it" : "misses it"}: ${words}`;
    return counts ? `${says}` : `in the judge's opinion ${says}`;
  },
};

/** The rubrics that expectations name, each once. */
export function rubricsIn(expected: readonly { expectation: { kind: string } }[]): string[] {
  const found = expected.flatMap(({ expectation }) =>
    expectation.kind === "meets" ? [(expectation as Meets).rubric] : [],
  );
  return [...new Set(found)];
}
