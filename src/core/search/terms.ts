/**
 * How messages are searched. The index takes words as Unicode has them (the tokenizer `unicode61` of SQLite's
 * FTS5), without case and diacritics. Scripts that part no words by spaces are taken sign by sign, so that any
 * run of their signs is found wherever it stands.
 */

const signs =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}]\p{M}*/gu;
const words = /[\p{L}\p{N}\p{M}\p{Co}]+/gu;
const mostTerms = 12;
const longestTerm = 64;

/** A text as it is indexed: signs of scripts without spaces stand apart. */
export function indexedText(text: string): string {
  return text.replace(signs, " $& ");
}

/** What is looked for: every term has to be in a message. The last one may go on, unless it was ended by a space. */
export interface Terms {
  /** Each a run of words that stand one after the other. */
  terms: string[][];
  /** Whether the last word of the last term may be the beginning of a longer one. */
  isOpen: boolean;
}

/**
 * The terms of a text as one types it: its words, and what stands between quotation marks as one.
 * @returns undefined where it holds no word
 */
export function termsOf(text: string): Terms | undefined {
  const terms: string[][] = [];
  let isOpen = false;
  for (const [whole, quoted] of text.matchAll(/"([^"]*)"?|[^\s"]+/g)) {
    if (terms.length === mostTerms) break;
    const run = (indexedText((quoted ?? whole).slice(0, longestTerm)).match(words) ?? []).map(folded);
    if (run.length === 0) continue;
    terms.push(run);
    isOpen = quoted === undefined && text.endsWith(whole);
  }
  return terms.length === 0 ? undefined : { terms, isOpen };
}

/** The terms as a query of FTS5. */
export function matchOf({ terms, isOpen }: Terms): string {
  return terms.map((run, at) => `"${run.join(" ")}"${isOpen && at === terms.length - 1 ? " *" : ""}`).join(" AND ");
}

/** A stretch of a text: characters from `from` up to `to`. */
export interface Place {
  from: number;
  to: number;
}

/** Where the terms stand in a text, in order and without overlaps; at most so many places. */
export function placesIn(text: string, { terms, isOpen }: Terms, most = 500): Place[] {
  const tokens = tokensOf(text);
  const places: Place[] = [];
  for (let at = 0; at < tokens.length && places.length < most; at += 1)
    for (const [number, run] of terms.entries()) {
      const mayGoOn = isOpen && number === terms.length - 1;
      const last = tokens[at + run.length - 1];
      if (!last || !run.every((word, back) => fits(tokens[at + back]?.word, word, mayGoOn && back === run.length - 1)))
        continue;
      places.push({ from: (tokens[at] as Token).from, to: last.to });
      at += run.length - 1;
      break;
    }
  return places;
}

interface Token extends Place {
  word: string;
}

function tokensOf(text: string): Token[] {
  const tokens: Token[] = [];
  const add = (from: number, to: number) => tokens.push({ from, to, word: folded(text.slice(from, to)) });
  for (const { 0: run, index } of text.matchAll(words)) {
    let from = index;
    for (const sign of run.matchAll(signs)) {
      const at = index + sign.index;
      if (at > from) add(from, at);
      from = at + sign[0].length;
      add(at, from);
    }
    if (index + run.length > from) add(from, index + run.length);
  }
  return tokens;
}

function fits(found: string | undefined, wanted: string, mayGoOn: boolean): boolean {
  return found !== undefined && (mayGoOn ? found.startsWith(wanted) : found === wanted);
}

/** A word without case and diacritics. */
function folded(word: string): string {
  return word.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase().normalize("NFC");
}
