import type { Message } from "../../conversation/message";
import { piecesOf } from "../../conversation/pieces";
import { noSum, withTurn } from "../../conversation/sum";
import type { Candidate } from "../../reply/events";
import { isUnderWay, type ReplyState } from "../../reply/reply";
import type { Content } from "../../revision/content";
import { uncalibrated } from "../../tokens/calibration";
import { countsOf } from "../../tokens/counts";
import { type Asked, type Assembled, assemble, type MessageAbove, type Pinned } from "../assemble";
import type { Clear } from "../clear";

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

/** What a context is assembled for, where it does not matter. */
export function askedFor(more: Partial<Asked> = {}): Asked {
  return {
    content: plainContent,
    variables: {},
    by: { provider: "P", model: "m" },
    window: 1000,
    calibration: uncalibrated,
    now: 0,
    ...more,
  };
}

/** What is assembled as the server does it: from the end of the line, more of which is read as far as it is wanted. */
export function assembled(asked: Asked, whole: readonly Message[], length = 2): Assembled {
  let above: MessageAbove[] = [];
  for (;;) {
    // a part of a line begins with a visitor's message
    const cut = Math.floor(Math.max(whole.length - length, 0) / 2) * 2;
    const sent = assemble(asked, whole.slice(cut), above);
    if (sent.kind !== "short") return sent;
    if (sent.of === "end") length *= 2;
    else
      above = whole.slice(0, cut).map((message) => ({
        role: message.role,
        pieces: message.pieces,
        carry: message.role === "app" ? { provider: message.facts.provider, rounds: message.facts.carry } : undefined,
      }));
  }
}

/** The clear after a turn of a line, of all models or of one; none where there is no such turn. */
export function clearAfter(whole: readonly Message[], turn: number, by: Candidate | null = null): Clear[] {
  const end = whole[turn * 2 - 1];
  return end ? [{ message: end.id, turn, soFar: end.soFar, by }] : [];
}

/** The turns with these numbers, pinned. */
export function pinnedIn(whole: readonly Message[], turns: readonly number[]): Pinned[] {
  return [...new Set(turns)]
    .sort((a, b) => a - b)
    .flatMap((turn): Pinned[] => {
      const [visitor, reply] = [whole[turn * 2 - 2], whole[turn * 2 - 1]];
      return visitor && reply ? [{ visitor, reply }] : [];
    });
}
