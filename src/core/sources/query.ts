import { indexedText } from "../search/terms";

/** Words that say nothing of what is looked for, in the languages of the sample world's visitors. */
const common = new Set(
  `a an and any are as at be been but by can could did do does for from had has have he her him his how i if in is it its
   may me might my no not of on or our out she should so some than that the their them then there these they this those
   to too was we were what when where which who whom whose why will with would you your yours please
   der die das ein eine und oder ist sind war wie was wer wo wann ich du er sie es wir ihr nicht mit von zu auf für im in
   le la les un une des et ou est sont que qui quoi je tu il elle nous vous pas avec de du au aux pour dans sur
   el los las una unos y o es son que quien como cuando donde yo no con del al para en por`.split(/\s+/),
);

/** Terms that are looked for at most: of a long message those that come first. */
const mostTerms = 24;

/** A text as it is indexed for being found by questions: words of Latin letters without their endings, signs of scripts without spaces apart. */
export function foundText(text: string): string {
  return wordsIn(text).map(stemOf).join(" ");
}

/** The terms that a message is looked for by: its words without their endings, each once; none where it has no word. */
export function termsOf(message: string): string[] {
  const words = wordsIn(message);
  const telling = words.filter((word) => !common.has(word));
  return [...new Set((telling.length > 0 ? telling : words).map(stemOf))].slice(0, mostTerms);
}

/** Terms as a query of FTS5 over `foundText`: any of them may be there. */
export function queryOf(terms: readonly string[]): string {
  return terms.map((term) => `"${term}"`).join(" OR ");
}

/** The words of a text that say something, without their endings. */
export function stemsOf(text: string): string[] {
  return wordsIn(text)
    .filter((word) => !common.has(word))
    .map(stemOf);
}

function wordsIn(text: string): string[] {
  const plain = text.normalize("NFKD").replace(accents, "$1").normalize("NFC");
  return (
    indexedText(plain)
      .toLowerCase()
      .match(/[\p{L}\p{N}\p{M}]+/gu) ?? []
  );
}

/** Marks over letters of scripts whose words are known without them. */
const accents = /([\p{Script=Latin}\p{Script=Greek}\p{Script=Cyrillic}])\p{M}+/gu;

/** Letters that a word has left at least. */
const fewestLetters = 3;
/** Endings that change nothing of what a word is about, and what stands in their places. */
const endings: readonly (readonly [ending: string, instead: string])[] = [
  ["sses", "ss"],
  ["ies", "y"],
  ["ss", "ss"],
  ["ing", ""],
  ["ed", ""],
  ["es", ""],
  ["s", ""],
  ["e", ""],
];

/** A word of Latin letters without its ending: *bicycle* and *bicycles* are one. It is coarse, and the same on both sides. */
function stemOf(word: string): string {
  if (!/^\p{Script=Latin}+$/u.test(word)) return word;
  const found = endings.find(([ending]) => word.endsWith(ending) && word.length - ending.length >= fewestLetters);
  return found ? word.slice(0, -found[0].length) + found[1] : word;
}
