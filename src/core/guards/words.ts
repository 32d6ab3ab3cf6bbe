import { type Expression, isOfWord, wordBorder } from "./automaton";

const marks = /\p{M}/gu;

/** Characters that a text holds without anybody seeing them: joiners, soft hyphens and the like. */
const unseen = /[\u00ad\u061c\u180e\u200b-\u200f\u2060-\u2064\ufeff]/u;

/** Whether a character changes nothing of a word that it stands in: one that is not seen, or an accent of its own. */
export function isPassedOver(code: number): boolean {
  if (code < 0xad) return false;
  const sign = String.fromCodePoint(code);
  return unseen.test(sign) || sign.search(marks) >= 0;
}

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

/** Whole words and phrases, in any case and with any accents. */
export function wordsExpression(words: readonly string[]): Expression {
  return { kind: "either", of: words.map(phrase) };
}

function phrase(text: string): Expression {
  const parts = text.trim().split(/\s+/u).filter(Boolean).map(codesOf);
  const codes = parts.flat();
  const border = (code: number | undefined) => (isOfWord(code) ? [wordBorder] : []);
  return {
    kind: "row",
    of: [
      ...border(codes[0]),
      ...parts.flatMap((part, at): Expression[] => [
        ...(at > 0 ? [blanks] : []),
        ...part.map((code): Expression => ({ kind: "one", takes: (each) => plainCode(each) === code })),
      ]),
      ...border(codes.at(-1)),
    ],
  };
}

function codesOf(word: string): number[] {
  return [...word]
    .map((sign) => sign.codePointAt(0) as number)
    .filter((code) => !isPassedOver(code))
    .map(plainCode);
}
