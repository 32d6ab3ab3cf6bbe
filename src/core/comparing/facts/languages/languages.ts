import type { Reading } from "../token";
import { english } from "./english";
import { french } from "./french";
import { german } from "./german";
import { japanese } from "./japanese";
import type { Language } from "./language";
import { spanish } from "./spanish";

const spaced: readonly Language[] = [english, german, french, spanish];
/** Words by which it is told in which language a text is. */
const mostLooked = 2_000;

/** The language that a text is in; English where nothing tells. */
export function languageOf({ tokens }: Reading): Language {
  const words = tokens.slice(0, mostLooked).filter(({ kind }) => kind === "word");
  const signs = words.filter(({ text }) => /^[\p{Script=Hiragana}\p{Script=Katakana}]/u.test(text)).length;
  if (signs > words.length / 10) return japanese;
  const said = (language: Language) => words.reduce((sum, { lower }) => sum + tells(language, lower), 0);
  const [best] = spaced.map((language) => ({ language, said: said(language) })).sort((a, b) => b.said - a.said);
  return best?.language ?? english;
}

/** Letters that one of the languages has alone, or nearly so. */
const letters: Partial<Record<Language["name"], RegExp>> = {
  de: /[äöüß]/,
  fr: /[èêâçœëîûôù]|^[ldjnmsc]'|^qu'/,
  es: /[ñíóú]/,
};

/** How much a word tells for a language. */
function tells(language: Language, word: string): number {
  const isLong = word.length > 2;
  const isKnown =
    language.common.has(word) ||
    language.days.has(word) ||
    (isLong && (language.numbers.has(word) || language.units.has(word) || language.months.has(word)));
  return (isKnown ? 1 : 0) + (letters[language.name]?.test(word) ? 1 : 0);
}
