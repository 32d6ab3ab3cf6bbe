import { numberFrom, sentencesOf } from "./words";

/** How long an answer may be. */
export interface Limits {
  sentences?: number;
  words?: number;
  characters?: number;
}

const limit =
  /\b(?:at most|no more than|not more than|never more than|fewer than|less than|under|within|up to|a maximum of|maximum|max\.?|limit(?: of)?|in|to|about|around|exactly|only|with|use|using)\s+(?:about |around |at most |exactly |only )?(\d+|[a-z]+)\s+(?:short )?(characters?|letters?|words?|sentences?)\b/gi;

/** The limits that a text names. */
export function limitsIn(text: string): Limits {
  const limits: Limits = {};
  for (const [, number = "", unit = ""] of text.matchAll(limit)) {
    const count = numberFrom(number.toLowerCase() === "single" ? "one" : number);
    if (count === undefined || count < 1) continue;
    if (/^(?:char|letter)/i.test(unit)) limits.characters = count;
    else if (/^word/i.test(unit)) limits.words = count;
    else limits.sentences = count;
  }
  return limits;
}

/** A text without what names limits in it. */
export function withoutLimits(text: string): string {
  return text.replace(limit, " ");
}

/** The first sentences of a text. */
export function firstSentences(text: string, count: number): string {
  const sentences = sentencesOf(text);
  return sentences.length <= count ? text : sentences.slice(0, Math.max(count, 0)).join(" ");
}

/** The first words of a text, ended like a sentence. */
export function firstWords(text: string, count: number): string {
  const words = text.split(/\s+/).filter(Boolean);
  return words.length <= count ? text : ended(words.slice(0, Math.max(count, 0)).join(" "));
}

/** What of a text fits into so many characters: whole sentences where they do. */
export function firstCharacters(text: string, count: number): string {
  if (text.length <= count) return text;
  let kept = "";
  for (const sentence of sentencesOf(text)) {
    const longer = kept ? `${kept} ${sentence}` : sentence;
    if (longer.length > count) break;
    kept = longer;
  }
  if (kept) return kept;
  const cut = text.slice(0, Math.max(count - 1, 0));
  return ended(cut.includes(" ") ? cut.slice(0, cut.lastIndexOf(" ")) : cut);
}

/** Words cut short, ended like a sentence: no word is left hanging that needs another after it. */
function ended(words: string): string {
  const whole = words
    .replace(/[\s,;:.–-]+$/, "")
    .replace(/(?:\s+(?:the|a|an|and|or|of|on|to|in|at|with|for|so|is|are|by))+$/i, "");
  return whole === "" ? "" : `${whole}.`;
}
