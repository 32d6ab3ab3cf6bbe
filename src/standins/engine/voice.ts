import type { Character } from "./manner";
import type { Scene } from "./scene";

const turns: Record<Character, { before: string[]; after: string[] }> = {
  pirate: { before: ["Arr!", "Ahoy!", "By the tides!"], after: ["Mark that, matey.", "So says the sea.", "Aye."] },
  grumpy: {
    before: ["Hmph.", "If you must know:", "Well, if it has to be."],
    after: ["Anything else?", "That's that.", "Now let me get on."],
  },
  cheerful: {
    before: ["How lovely!", "With pleasure!", "Oh, gladly!"],
    after: ["Isn't that fine?", "Do ask me more!", "What a good day for it!"],
  },
  formal: {
    before: ["Very well.", "If I may:", "Certainly."],
    after: ["I remain at your service.", "Will there be anything further?"],
  },
  poet: {
    before: ["Listen:", "As the reeds would say it:", "Softly, now:"],
    after: ["So the tide sings.", "And the rest is wind."],
  },
  sailor: {
    before: ["Aye.", "Right then.", "Mind the rail:"],
    after: ["Fair winds.", "Keep a hand for the boat.", "Steady as she goes."],
  },
};

/** A text in the way in which the character of a prompt speaks; limits of length leave no room for that. */
export function voiced(text: string, { manner, choices }: Pick<Scene, "manner" | "choices">): string {
  const { character, words, characters, sentences, yesOrNo, form } = manner;
  if (!character || words || characters || sentences || yesOrNo || form) return text;
  const { before, after } = turns[character];
  const gap = text.includes("\n") ? "\n\n" : " ";
  return `${choices.one(before)}${gap}${text}${gap}${choices.one(after)}`;
}
