import { factsIn } from "../facts/facts";
import { statedIn } from "../stated";

/** What lanes answered to a row, of which is told what not all of them state. */
export interface ToTellApart {
  question: string;
  lanes: readonly { lane: number; text: string }[];
}

/** A fact that some lanes state, as the first of them says it, and not all. */
export interface Differing {
  fact: string;
  /** Those that state it. */
  lanes: number[];
}

/** The facts that not all lanes state which said anything; what the question says already is left out. */
export function differingIn({ question, lanes }: ToTellApart): Differing[] {
  const facts = lanes.map(({ text }) => (text.trim() === "" ? undefined : factsIn(text)));
  const { differing } = statedIn(facts, factsIn(question));
  return differing
    .filter(({ isAsked }) => !isAsked)
    .map(({ fact, places }) => ({
      fact: `${fact.isDenied ? "not " : ""}${fact.said.replace(/[*_`\s]+/g, " ").trim()}`,
      lanes: lanes.flatMap(({ lane }, at) => ((places[at]?.length ?? 0) > 0 ? [lane] : [])),
    }));
}
