import type { Message } from "../conversation/message";
import { piecesOf } from "../conversation/pieces";
import { noSum, withTurn } from "../conversation/sum";
import { isUnderWay, type ReplyState } from "../reply/reply";
import type { Content } from "../revision/revision";
import { countsOf } from "../tokens/counts";

/** What a test's app is, where it does not matter. */
export const plainContent: Content = {
  prompt: "You are the desk.",
  variables: {},
  provider: "p",
  model: "m",
  settings: { maxOutput: 100 },
  memory: { kind: "everything" },
};

export type Said = string | [state: ReplyState, text: string];

/** A line from alternating visitor's words and replies, with sums as the store keeps them. */
export function line(...said: Said[]): Message[] {
  const messages: Message[] = [];
  for (const [at, each] of said.entries()) {
    const [state, text] = typeof each === "string" ? (["complete", each] as const) : each;
    const before = messages.at(-1);
    const base = {
      id: `m${at}`,
      parent: before?.id ?? null,
      turn: Math.floor(at / 2) + 1,
      pieces: piecesOf(text),
      counts: countsOf(text),
      at: 0,
    };
    const soFar = before?.soFar ?? noSum;
    if (at % 2 === 0) messages.push({ ...base, role: "visitor", soFar });
    else {
      const counts = isUnderWay(state) || text.trim() !== "";
      messages.push({
        ...base,
        role: "app",
        soFar: counts && before ? withTurn(soFar, [before.counts, base.counts]) : soFar,
        state,
        reported: null,
        continues: null,
        facts: { revision: 1, provider: "P", model: "m" },
      });
    }
  }
  return messages;
}
