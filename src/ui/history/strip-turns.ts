import type { ListedConversation } from "@/contract/conversations";
import { replyStates } from "@/core/reply/reply";

/** The turns of a strip. */
export type StripTurns = ListedConversation["turns"];

/** A conversation of the list, its strip packed: thousands of them are kept while one scrolls. */
export type PackedConversation = Omit<ListedConversation, "turns"> & { strip: Int32Array };

const each = 5;

export function packed({ turns, ...rest }: ListedConversation): PackedConversation {
  const strip = new Int32Array(turns.length * each);
  turns.forEach(({ visitor, reply, state, forks, places }, at) => {
    strip.set([visitor, reply, state === null ? -1 : replyStates.indexOf(state), forks, places], at * each);
  });
  return { ...rest, strip };
}

export function turnsIn(strip: Int32Array): StripTurns {
  return Array.from({ length: strip.length / each }, (_, at) => {
    const [visitor = 0, reply = 0, state = -1, forks = 0, places = 0] = strip.subarray(at * each, at * each + each);
    return { visitor, reply, state: replyStates[state] ?? null, forks, places };
  });
}

/** Tokens of all turns on a strip. */
export function tokensOn(strip: Int32Array): number {
  let tokens = 0;
  for (let at = 0; at < strip.length; at += each) tokens += (strip[at] ?? 0) + (strip[at + 1] ?? 0);
  return tokens;
}
