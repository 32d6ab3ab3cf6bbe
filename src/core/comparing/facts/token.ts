/** A word, a run of digits, a mark or the end of a line, and where it stands in its text. */
export interface Token {
  kind: "word" | "digits" | "mark" | "break";
  text: string;
  /** In small letters, with a straight apostrophe. */
  lower: string;
  from: number;
  to: number;
  /** Whether it stands right behind the token before it. */
  isGlued: boolean;
}

/** A fence of code, a link's address and a bare one, a list's mark, a heading's, and those of emphasis and code. */
const marks = [
  /^(```|~~~)[\s\S]*?(?:^\1[^\n]*$|(?![\s\S]))/gm,
  /\]\([^)\n]{0,2000}\)/g,
  /\bhttps?:\/\/[^\s)>\]]+/g,
  /^[ \t]*(?:[-*+•][ \t]+|#{1,6}[ \t]+|>[ \t]?)+/gm,
  /\*\*|__|\*(?=\S)|(?<=\S)\*|`|\[/g,
];

/** The mark of a numbered list, but not the day of a date at the beginning of a line. */
const numbered = /^[ \t]*\d{1,3}[.)][ \t]+(?!(?:jan|feb|mär|mae|apr|mai|jun|jul|aug|sep|okt|nov|dez)[a-zä]*\b)/gim;

/** A text of the same length in which what is only Markdown is blank. */
export function withoutMarkdown(text: string): string {
  return [...marks, numbered].reduce((left, mark) => left.replace(mark, (found) => found.replace(/[^\n]/g, " ")), text);
}

/** Words, digits, marks and ends of lines. */
const spaced = /\n|\d+|\p{L}[\p{L}\p{M}]*(?:['’]\p{L}[\p{L}\p{M}]*)?|\S/gu;
/** Where words are not parted by blanks, each sign is a token, and each run of Katakana. */
const unspaced =
  /\n|\d+|[\p{Script=Han}\p{Script=Hiragana}]|[\p{Script=Katakana}ー]+|\p{Script=Latin}[\p{Script=Latin}\p{M}]*|\S/gu;
const signs = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]/u;

/** The tokens of a text, its Markdown left out. Digits of full width are read as digits. */
export function tokensOf(text: string): Token[] {
  const tokens: Token[] = [];
  const plain = withoutMarkdown(text).replace(/[０-９：％，．]/g, (wide) =>
    String.fromCharCode(wide.charCodeAt(0) - 0xfee0),
  );
  let end = -1;
  for (const found of plain.matchAll(signs.test(plain) ? unspaced : spaced)) {
    const [said] = found;
    const from = found.index;
    tokens.push({
      kind: kindOf(said),
      text: said,
      lower: lowered(said),
      from,
      to: from + said.length,
      isGlued: from === end,
    });
    end = from + said.length;
  }
  return tokens;
}

const letter = /^\p{L}/u;

function kindOf(said: string): Token["kind"] {
  if (said === "\n") return "break";
  const first = said.charCodeAt(0);
  if (first >= 48 && first <= 57) return "digits";
  if ((first >= 97 && first <= 122) || (first >= 65 && first <= 90)) return "word";
  return letter.test(said) ? "word" : "mark";
}

function lowered(said: string): string {
  return said.toLowerCase().replace("’", "'");
}

/** A text as its tokens, read from any place; beyond the ends there is nothing. */
export class Reading {
  /** What was read at a place, by who looks there again. */
  readonly known = new Map<number, unknown>();

  constructor(readonly tokens: readonly Token[]) {}

  /** A token in small letters; empty where there is none. */
  at(place: number): string {
    return this.tokens[place]?.lower ?? "";
  }

  kind(place: number): Token["kind"] | "end" {
    return this.tokens[place]?.kind ?? "end";
  }

  /** Whether a token stands right behind the one before it. */
  isGlued(place: number): boolean {
    return this.tokens[place]?.isGlued ?? false;
  }

  /** Whether these words stand here, one after another. */
  says(place: number, words: readonly string[]): boolean {
    return words.every((word, at) => this.at(place + at) === word);
  }

  /** The place after the longest of some phrases that stands here; the same place where none does. */
  after(place: number, phrases: readonly (readonly string[])[]): number {
    let end = place;
    for (const phrase of phrases)
      if (place + phrase.length > end && this.says(place, phrase)) end = place + phrase.length;
    return end;
  }

  /** Whether a sentence, a line or a cell begins here. */
  begins(place: number): boolean {
    const before = this.tokens[place - 1];
    if (!before || before.kind === "break") return true;
    if (/^["'“”‘’(«¿¡]$/.test(before.text)) return this.begins(place - 1);
    return /^[.!?:;|。！？…]$/.test(before.text);
  }
}
