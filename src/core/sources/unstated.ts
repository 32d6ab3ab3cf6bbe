import { type Fact, factKey, factsIn } from "../comparing/facts/facts";
import { withoutMarks } from "./citing";

/** Facts that are told of, and characters of a reply that are looked through. */
const mostTold = 12;
const longest = 20_000;

/** The facts of a reply that none of some texts states, as it says them, each once. */
export function unstatedIn(reply: string, given: readonly string[]): string[] {
  const known = new Set(given.flatMap((each) => factsIn(each).map(factKey)));
  const words = given.join("\n").toLowerCase();
  // a name is found in sentences alone, and stands in rows as well
  const isKnown = (fact: Fact) => known.has(factKey(fact)) || words.includes(fact.said.toLowerCase());
  const others = factsIn(withoutMarks(reply.slice(0, longest), () => true)).filter(
    (fact) => !fact.isDenied && !isKnown(fact),
  );
  return [...new Set(others.map(({ said }) => said))].slice(0, mostTold);
}
