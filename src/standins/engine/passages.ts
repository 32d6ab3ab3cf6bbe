import { sentencesOf } from "./words";

/** A passage that a prompt gives to answer from, with the mark by which it is cited. */
export interface Passage {
  mark: string;
  text: string;
}

/** The passages of a prompt: paragraphs that begin with a mark in brackets, such as `[2] Dogs travel free.` */
export function passagesIn(prompt: string): Passage[] {
  return Array.from(
    prompt.matchAll(/^\[(\w{1,6})\]\s+(.+(?:\n(?!\[\w{1,6}\]\s|\s*\n).+)*)/gm),
    ([, mark = "", text = ""]) => ({
      mark,
      text: text.replace(/\s*\n\s*/g, " "),
    }),
  );
}

/** The one or two sentences of passages that bear on a question, each cited by its mark; undefined where none does. */
export function citedFrom(passages: Passage[], question: string): string | undefined {
  const words = stems(question);
  const found = passages
    .flatMap(({ mark, text }) => {
      const around = overlap(words, stems(text));
      return sentencesOf(text).map((sentence) => ({ mark, sentence, around, shared: overlap(words, stems(sentence)) }));
    })
    .filter(({ shared, around }) => shared > 0 && around >= Math.min(2, words.size))
    .sort((a, b) => b.shared * 2 + b.around - (a.shared * 2 + a.around));
  const best = found[0];
  if (!best || words.size === 0) return undefined;
  const kept = found.filter(({ shared, around }) => shared === best.shared && around === best.around).slice(0, 2);
  return kept.map(({ sentence, mark }) => `${sentence.replace(/[.!?]+$/, "")} [${mark}].`).join(" ");
}

const common =
  /^(?:what|when|where|which|does|have|with|there|your|about|this|that|from|many|much|long|they|will|would|can|the|and|for|are|how|who)$/;

/** The words of a text that say something, without their endings. */
function stems(text: string): Set<string> {
  const words = text.toLowerCase().match(/[\p{L}\p{N}]{3,}/gu) ?? [];
  return new Set(words.filter((word) => !common.test(word)).map((word) => word.replace(/(?:ing|ed|es|s)$/, "")));
}

function overlap(a: Set<string>, b: Set<string>): number {
  return [...a].filter((word) => b.has(word)).length;
}
