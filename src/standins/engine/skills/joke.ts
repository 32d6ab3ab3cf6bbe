import jokes from "../known/jokes.json";
import type { Skill } from "../scene";

/** How many were told so far, and whether the last is to be explained. */
interface Wanted {
  told: number;
  explains?: true;
}

/** Tells a joke, another, and what is funny about it. */
export const joke: Skill<Wanted> = {
  name: "a joke",
  isWorded: true,
  about: /\b(?:jokes?|humou?r|fun)\b/i,
  read(message, before) {
    if (/\b(?:jokes?|something funny|make me laugh|a pun)\b/i.test(message) && !/\bexplain\b/i.test(message))
      return { told: before ? before.told + 1 : 0 };
    if (!before) return undefined;
    if (/\b(?:explain|don't get it|do not get it|why is (?:that|it) funny|why\b)/i.test(message))
      return { told: before.told, explains: true };
    return /\b(?:another|one more|next|again|more|a different one|a better one)\b/i.test(message)
      ? { told: before.told + 1 }
      : undefined;
  },
  say({ told, explains }, { choices, talk, asked }) {
    const { joke: words, point } = jokes[
      (startOf(talk[0]?.visitor ?? asked) + told) % jokes.length
    ] as (typeof jokes)[number];
    if (explains) return point;
    const lead = choices.one(["", "Here is one: ", "This one is told on the quay: ", "Well then: "]);
    return `${lead}${words}`;
  },
};

/** Where a conversation begins in the list: each has jokes of its own, in an order that stays. */
function startOf(text: string): number {
  return [...text].reduce((sum, letter) => sum + letter.charCodeAt(0), 0);
}
