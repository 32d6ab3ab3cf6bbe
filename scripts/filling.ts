import { piecesOf } from "@/core/conversation/pieces";
import type { ReplyState } from "@/core/reply/reply";
import type { Origin } from "@/server/conversations/conversation-store";
import type { Home } from "@/server/home";

/** Different words that are said; the n-th is said about 1/n as often as the first, as in any language. */
const vocabulary = 4_000;
const origins: Origin[] = ["bench", "page", "http", "terminal"];
const models = ["reed-deep", "reed-swift", "pan-clear", "tide-wide"];
const states: ReplyState[] = [...Array<ReplyState>(17).fill("complete"), "cut", "stopped", "failed"];

/** The n-th word, from 1 for the one that is said most. */
export function wordAt(rank: number): string {
  const syllables = ["mar", "lo", "ten", "qui", "sa", "brin", "del", "o", "fer", "ni", "tal", "u"];
  let word = "";
  for (let left = rank; left > 0; left = Math.floor(left / syllables.length))
    word += syllables[left % syllables.length];
  return word;
}

/**
 * Fills an app with so many conversations of so many messages each, over the last year; the same numbers give the same
 * words. @returns their ids, the first made first
 */
export function fill(
  home: Pick<Home, "database" | "conversations" | "messages">,
  app: string,
  conversations: number,
  messages: number,
  now = Date.now(),
): string[] {
  const random = chance(conversations * messages);
  const step = Math.floor((365 * 24 * 60 * 60 * 1000) / conversations);
  const words = (count: number) =>
    Array.from({ length: count }, () => wordAt(Math.min(vocabulary, Math.floor(vocabulary ** random())))).join(" ");
  return Array.from({ length: conversations }, (_, number) =>
    home.database
      .transaction(() => {
        const at = now - (conversations - number) * step;
        const origin = origins[number % origins.length] as Origin;
        const opening = words(8);
        const { id } = home.conversations.create({ app, visitor: null, origin, opening, now: at });
        let end = home.messages.message("");
        for (let turn = 0; turn < messages / 2; turn += 1) {
          const said = home.messages.addVisitorMessage({
            conversation: id,
            parent: end,
            pieces: piecesOf(turn === 0 ? opening : words(6 + Math.floor(random() * 10))),
            now: at + turn * 60_000,
          });
          const model = models[Math.floor(random() * models.length)] as string;
          const facts = { revision: 1 + (number % 5), provider: "Filled", model };
          const reply = home.messages.addReply({
            conversation: id,
            parent: said,
            continues: null,
            facts,
            now: at + turn * 60_000 + 2_000,
          });
          const state = states[Math.floor(random() * states.length)] as ReplyState;
          const pieces = piecesOf(words(20 + Math.floor(random() * 40)));
          home.messages.finishReply({ id: reply.id, state, pieces, reported: null, facts });
          end = home.messages.message(reply.id);
        }
        return id;
      })
      .immediate(),
  );
}

/** Numbers from 0 to 1, always the same ones: a counter of 32 bits whose bits are mixed. */
function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}
