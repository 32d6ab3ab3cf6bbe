import { type Automaton, compile, type Expression, isOfWord, wordBorder } from "./automaton";

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

/** Whole words and phrases, in any case and with any accents: an automaton of any size reads them quickly. */
export function wordsAutomaton(words: readonly string[]): Automaton {
  const phrases = words.map((text) =>
    text
      .trim()
      .split(/\s+/u)
      .map(codesOf)
      .filter(({ length }) => length > 0),
  );
  const of = (beginsWord: boolean): Expression => ({
    kind: "either",
    of: phrases.filter((parts) => isOfWord(parts[0]?.[0]) === beginsWord).map(phrase),
  });
  // one border for all words: at most characters it is all that is looked at
  return compile({ kind: "either", of: [{ kind: "row", of: [wordBorder, of(true)] }, of(false)] }, Infinity);
}

function phrase(parts: readonly number[][]): Expression {
  const last = parts.at(-1)?.at(-1);
  return {
    kind: "row",
    of: [
      ...parts.flatMap((part, at): Expression[] => [
        ...(at > 0 ? [blanks] : []),
        ...part.map((code): Expression => ({ kind: "one", takes: (each) => plainCode(each) === code })),
      ]),
      ...(isOfWord(last) ? [wordBorder] : []),
    ],
  };
}

function codesOf(word: string): number[] {
  return [...word]
    .map((sign) => sign.codePointAt(0) as number)
    .filter((code) => !isPassedOver(code))
    .map(plainCode);
}
