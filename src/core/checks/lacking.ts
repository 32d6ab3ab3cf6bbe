import { sentencesOf } from "./measures";

/**
 * The sentences of one prompt that another lacks, those first that have most to do with what is asked for.
 * @param about words of what was expected
 */
export function lackingIn(base: string, other: string, about = ""): string[] {
  const there = new Set(wholeSentences(other).map(plain));
  const lacking = wholeSentences(base).filter((sentence) => !there.has(plain(sentence)));
  const wanted = new Set(stems(about));
  const shared = (sentence: string) => stems(sentence).filter((stem) => wanted.has(stem)).length;
  return lacking
    .map((sentence) => ({ sentence, shared: shared(sentence) }))
    .sort((a, b) => b.shared - a.shared)
    .map(({ sentence }) => sentence);
}

/** The sentences of a prompt; what it has in quotation marks stays in the sentence that says so. */
function wholeSentences(text: string): string[] {
  const whole: string[] = [];
  for (const sentence of sentencesOf(text)) {
    const before = whole.at(-1);
    if (before !== undefined && isQuoteOpen(before)) whole[whole.length - 1] = `${before} ${sentence}`;
    else whole.push(sentence);
  }
  return whole;
}

/** Letters in which a quotation mark has to be closed: one that is not is a slip of the prompt. */
const longestQuote = 500;

function isQuoteOpen(text: string): boolean {
  if (text.length > longestQuote) return false;
  const count = (mark: RegExp) => text.match(mark)?.length ?? 0;
  return count(/"/g) % 2 === 1 || count(/[“„]/g) > count(/”/g);
}

function plain(sentence: string): string {
  return sentence
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .trim();
}

/** The words of a text without their endings, short ones left out. */
function stems(text: string): string[] {
  return plain(text)
    .split(" ")
    .filter((word) => word.length > 3)
    .map((word) => word.replace(/(?:es|s)$/, ""));
}
