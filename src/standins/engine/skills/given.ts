import { asks, toldIn } from "../facts";
import type { Exchange, Skill } from "../scene";
import { sentencesOf } from "../words";

interface Wanted {
  /** The sentence that bears on the question. */
  sentence: string;
}

/** Answers from a text that was handed in: in an earlier message, or above the question itself. */
export const given: Skill<Wanted> = {
  name: "a text that was handed in",
  isWorded: true,
  about: /$^/,
  read(message, _before, { before }) {
    const question = questionOf(message);
    if (question === undefined) return undefined;
    const above = message.slice(0, message.lastIndexOf(question));
    for (const text of [above, ...textsIn(before)]) {
      const sentence = sentenceOn(question, sentencesOf(text));
      if (sentence) return { sentence };
    }
    return undefined;
  },
  say({ sentence }, { choices }) {
    const whole = ended(sentence);
    return choices.one([whole, `The text says: ${whole}`, `It stands in the text that you gave me: ${whole}`]);
  },
};

/** Answers from what the system prompt tells. */
export const told: Skill<Wanted> = {
  name: "what the prompt tells",
  about: /$^/,
  read(message, _before, { prompt }) {
    const question = questionOf(message);
    const sentences = toldIn(prompt).map(({ original }) => original);
    const sentence = question === undefined ? undefined : sentenceOn(question, sentences);
    return sentence === undefined ? undefined : { sentence };
  },
  say: ({ sentence }) => ended(sentence),
};

function ended(sentence: string): string {
  return /[.!?]$/.test(sentence) ? sentence : `${sentence}.`;
}

/** The question that a message ends with. */
function questionOf(message: string): string | undefined {
  const last = sentencesOf(message).at(-1);
  return last !== undefined && asks(last) ? last : undefined;
}

/** Messages that hand in a text: several sentences, or many words. The latest first. */
function textsIn(before: readonly Exchange[]): string[] {
  return before
    .map(({ visitor }) => visitor)
    .filter((text) => sentencesOf(text).length >= 2 || text.split(/\s+/).length >= 25)
    .reverse();
}

const common =
  /^(?:what|when|where|which|whose|does|have|with|there|your|about|this|that|from|many|much|they|will|would|could|should|the|and|for|are|how|who|was|were|did|has|had|can|you|his|her|its|our|their|tell|please|know|called|name|time|say|said)$/;
const kinds: [RegExp, RegExp][] = [
  [
    /\b(?:when|what time|which day|what day)\b/i,
    /\d{1,2}[:.]\d{2}|\b(?:mon|tues|wednes|thurs|fri|satur|sun)day\b|\b(?:january|february|march|april|may|june|july|august|september|october|november|december)\b|\b(?:today|tomorrow|noon|morning|evening)\b|\b(?:19|20)\d{2}\b/i,
  ],
  [
    /\bhow (?:many|much|long|old|far|large|big|high|tall|wide|deep|heavy|expensive|often)\b/i,
    /\d|\b(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|twenty|thirty|hundred)\b/i,
  ],
  [/\bwho(?:se)?\b/i, /(?<!^)\b\p{Lu}\p{L}+/u],
];

/** The sentence of some that bears most on a question; undefined where none shares enough of its words with it. */
export function sentenceOn(question: string, sentences: readonly string[]): string | undefined {
  const wanted = stems(question);
  if (wanted.size === 0) return undefined;
  const fits = kinds.filter(([asked]) => asked.test(question)).map(([, has]) => has);
  let best: string | undefined;
  let most = 0;
  for (const [at, sentence] of sentences.entries()) {
    const shared = [...stems(sentence)].filter((word) => wanted.has(word)).length;
    if (shared === 0) continue;
    const score = shared + (fits.length > 0 && fits.every((has) => has.test(sentence)) ? 0.8 : 0) + at / 10_000;
    if (score > most) [best, most] = [sentence, score];
  }
  const needed = fits.length > 0 && wanted.size <= 2 ? 1 : Math.min(2, wanted.size);
  return most >= needed ? best : undefined;
}

/** The words of a text that say something, without their endings. */
export function stems(text: string): Set<string> {
  const words = text.toLowerCase().match(/[\p{L}\p{N}]{3,}/gu) ?? [];
  return new Set(
    words.filter((word) => !common.test(word)).map((word) => word.replace(/(?:ing|ied|ies|ed|es|s|e|y)$/, "")),
  );
}
