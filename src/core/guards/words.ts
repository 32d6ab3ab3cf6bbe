import { compile, type Expression, isOfWord, wordBorder } from "./automaton";
import type { Looked } from "./finder";

const marks = /\p{M}/gu;

/** Characters that a text holds without anybody seeing them: joiners, soft hyphens and the like. */
const unseen = /[\u00ad\u061c\u180e\u200b-\u200f\u2060-\u2064\ufeff]/u;

/** Whether a character changes nothing of a word that it stands in: one that is not seen, or an accent of its own. */
export function isPassedOver(code: number): boolean {
  if (code < 0xad) return false;
  const sign = String.fromCodePoint(code);
  return unseen.test(sign) || sign.search(marks) >= 0;
}

/** Whether a text has characters that are passed over. */
export function hasPassedOver(text: string): boolean {
  return passedOver.test(text);
}

const passedOver = /[\p{M}\u00ad\u061c\u180e\u200b-\u200f\u2060-\u2064\ufeff]/u;

/** A character without case and accent: that of another width or style is the plain one (Unicode NFKD). */
export function plainCode(code: number): number {
  if (code < 0x80) return code >= 0x41 && code <= 0x5a ? code + 0x20 : code;
  const plain = String.fromCodePoint(code).normalize("NFKD").replace(marks, "").toLowerCase();
  const [only, more] = plain;
  return only === undefined || more !== undefined ? code : (only.codePointAt(0) as number);
}

/** Blanks between the words of a phrase: line breaks too. */
const blanks: Expression = {
  kind: "times",
  of: { kind: "one", takes: (code) => /\s/u.test(String.fromCodePoint(code)) },
  least: 1,
  most: 20,
};

/** What stands for the blanks between the words of a phrase, among the characters of phrases. */
const blank = -1;

/** Phrases that begin alike as one: what can follow, and whether one of them ends here. */
interface Branch {
  next: Map<number, Branch>;
  ends: boolean;
}

/** What is looked for to find whole words and phrases, in any case and with any accents. */
export function wordsLooked(words: readonly string[]): Looked {
  const root = branch();
  for (const word of words) {
    const parts = word
      .trim()
      .split(/\s+/u)
      .map(codesOf)
      .filter(({ length }) => length > 0);
    let at = root;
    for (const code of parts.flatMap((part, place) => (place > 0 ? [blank, ...part] : part))) {
      const next = at.next.get(code) ?? branch();
      at.next.set(code, next);
      at = next;
    }
    at.ends = true;
  }
  const of = (code: number): Expression => following(code, root.next.get(code) ?? branch());
  const each = [...root.next.keys()].map((code): Expression => {
    return isOfWord(code) ? { kind: "row", of: [wordBorder, of(code)] } : of(code);
  });
  return {
    automaton: compile({ kind: "either", of: each }, Infinity),
    passesOver: isPassedOver,
    begins: (code) => root.next.has(plainCode(code)),
  };
}

function branch(): Branch {
  return { next: new Map(), ends: false };
}

/** A character, and whatever can follow it. */
function following(code: number, { next, ends }: Branch): Expression {
  const one: Expression = code === blank ? blanks : { kind: "one", takes: (each) => plainCode(each) === code };
  const further = [...next].map(([after, each]) => following(after, each));
  const end: Expression[] = ends ? [isOfWord(code) ? wordBorder : { kind: "row", of: [] }] : [];
  return { kind: "row", of: [one, { kind: "either", of: [...end, ...further] }] };
}

function codesOf(word: string): number[] {
  return [...word]
    .map((sign) => sign.codePointAt(0) as number)
    .filter((code) => !isPassedOver(code))
    .map(plainCode);
}
