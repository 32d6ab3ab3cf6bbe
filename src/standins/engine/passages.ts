import { sentencesOf } from "./words";

/** A passage that a prompt gives to answer from, with the mark by which it is cited. */
export interface Passage {
  mark: string;
  text: string;
}

/** A passage between two lines of one sign, the first of which has its mark: `==== [rules 2] Rules, page 4`. */
const fenced = /^(={4,}) \[([^\]\n]{1,60})\][^\n]*\n([\s\S]*?)\n\1$/gm;

/** A text without the passages that stand in it between lines: a careful reader takes them for nothing but passages. */
export function withoutFenced(text: string): string {
  return text
    .replace(fenced, "")
    .replace(/\n{3,}/g, "\n\n")
    .trim();
}

/** The passages of a text: those between two lines, and paragraphs that begin with a mark in brackets, such as `[2] Dogs travel free.` */
export function passagesIn(text: string): Passage[] {
  const between = Array.from(text.matchAll(fenced), ([, , mark = "", words = ""]) => ({
    mark,
    text: words.replace(/\s*\n\s*/g, " "),
  }));
  return [...between, ...paragraphsIn(withoutFenced(text))];
}

/** What a prompt tells to say where passages hold no answer, word for word. */
export function unknownIn(prompt: string): string | undefined {
  const said = /hold (?:the|an|no) answer, say (?:nothing but|only|exactly)[:,]? *(.+)$/im.exec(prompt)?.[1];
  return said?.replace(/^["“'](.+)["”']$/, "$1").trim();
}

/** Whether a prompt allows no answer but from passages. */
export function isBoundTo(prompt: string): boolean {
  return /\bonly from (?:these|the|its|your)? ?(?:passages|documents)\b/i.test(prompt);
}

function paragraphsIn(prompt: string): Passage[] {
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
  return new Set(words.filter((word) => !common.test(word)).map((word) => word.replace(/(?:ing|ed|es|e|s)$/, "")));
}

function overlap(a: Set<string>, b: Set<string>): number {
  return [...a].filter((word) => b.has(word)).length;
}
