import { factKey, factsIn } from "../comparing/facts/facts";
import { isIn } from "./expectations/says";
import { factsOf } from "./expectations/states";
import type { SentTurn } from "./seen";
import type { Needed } from "./trial";

/**
 * Where what a reply needed was to be had: in an earlier turn that was not sent, or in one that was, or in the prompt.
 * Undefined where it stands nowhere.
 * @param needs words or facts; the first that is found is told
 * @param earlier the turns before, with what was said in them
 */
export function whereNeeded(
  needs: readonly string[],
  earlier: readonly { turn: number; said: string }[],
  sent: readonly SentTurn[],
  prompt: string,
): Needed | undefined {
  for (const need of needs) {
    const isNeeded = holding(need);
    const at = earlier.filter(({ said }) => isNeeded(said)).map(({ turn }) => turn);
    const went = at.find((turn) => sent.some((each) => each.turn === turn && each.isSent));
    if (went !== undefined) return { kind: "not-used", need, turn: went };
    if (isNeeded(prompt)) return { kind: "not-used", need, turn: null };
    const missed = sent.find((each) => at.includes(each.turn));
    if (missed) return { kind: "not-sent", need, turn: missed.turn, sent: missed };
  }
  return undefined;
}

/** Whether a text holds a need: all its facts, or else its words. */
function holding(need: string): (text: string) => boolean {
  const facts = factsOf(need);
  if (facts.length === 0) return (text) => isIn(need, text);
  return (text) => {
    const there = new Set(factsIn(text).map(factKey));
    return facts.every((fact) => there.has(fact)) || isIn(need, text);
  };
}
