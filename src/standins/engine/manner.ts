import { numberFrom, sentencesOf } from "./words";

/** What a system prompt asks of every reply, as far as the engine can read it. */
export interface Manner {
  /** The name to answer to. */
  name?: string;
  characters?: number;
  words?: number;
  sentences?: number;
  noLists: boolean;
  noMarkdown: boolean;
  /** A line that every reply ends with. */
  closing?: string;
  /** What the reply has to keep to, in the prompt's words. */
  subject?: string;
  /** What to say to anything else. */
  decline?: string;
}

const limit =
  /\b(?:at most|no more than|not more than|never more than|fewer than|less than|under|within|up to|a maximum of|maximum|max\.?|limit(?: of)?|in)\s+(\d+|[a-z]+)\s+(characters?|letters?|words?|sentences?)\b/gi;

/** Reads a system prompt. */
export function mannerOf(prompt: string): Manner {
  const manner: Manner = {
    noLists:
      /\b(?:no|without|avoid|never use|do not use|don't use)\s+(?:any\s+)?(?:bullet(?:ed)?\s+)?(?:lists|bullets|bullet points)\b/i.test(
        prompt,
      ),
    noMarkdown:
      /\b(?:no|without|avoid|never use|do not use|don't use)\s+(?:any\s+)?markdown\b|\bplain text only\b/i.test(prompt),
  };
  for (const [, number = "", unit = ""] of prompt.matchAll(limit)) {
    const count = numberFrom(number);
    if (count === undefined || count < 1) continue;
    if (/^(char|letter)/i.test(unit)) manner.characters = count;
    else if (/^word/i.test(unit)) manner.words = count;
    else manner.sentences = count;
  }
  manner.name =
    /\b(?:[Yy]ou are(?: called| named)?|[Yy]our name is|[Cc]all yourself)\s+([A-Z]\p{L}+(?: [A-Z]\p{L}+)*)/u.exec(
      prompt,
    )?.[1];
  manner.closing =
    /\b(?:end|close|finish)\s+(?:every|each|all)\s+(?:reply|replies|answer|answers|message)s?\s+with[: ]+["“']([^"”']+)["”']/i.exec(
      prompt,
    )?.[1];
  const subject =
    /\b(?:only (?:answer|talk|speak|help|reply|deal)|(?:answer|talk|speak|help|reply) only|keep|stick)\b[^.]*?\b(?:about|on|with|to)\s+([^.;:,]+)/i.exec(
      prompt,
    );
  manner.subject = subject?.[1];
  manner.decline =
    /\b(?:otherwise|anything else|other questions?|everything else|if not)\b[^.]*?\b(?:say|answer|reply|with)[: ]+["“]([^"”]+)["”]/i.exec(
      prompt,
    )?.[1];
  return manner;
}

/** A manner of which one instruction is forgotten, in one of four cases. */
export function lapsed(manner: Manner, seed: number): Manner {
  const names = (["closing", "sentences", "words", "characters", "noLists"] as const).filter((name) => manner[name]);
  const forgotten = seed % 4 === 0 ? names[(seed >>> 2) % names.length] : undefined;
  if (forgotten === "noLists") return { ...manner, noLists: false };
  return forgotten === undefined ? manner : { ...manner, [forgotten]: undefined };
}

/** A text brought within the limits of a manner, with its closing line kept. */
export function within(text: string, manner: Manner): string {
  const closing = manner.closing === undefined ? "" : manner.closing;
  let kept = text;
  if (manner.sentences !== undefined) kept = firstSentences(kept, manner.sentences - (closing ? 1 : 0));
  if (manner.words !== undefined) kept = firstWords(kept, manner.words - (closing ? closing.split(/\s+/).length : 0));
  if (manner.characters !== undefined)
    kept = firstCharacters(kept, manner.characters - (closing ? closing.length + 1 : 0));
  if (closing === "") return kept;
  return kept === "" ? closing : `${kept}${kept.includes("\n") ? "\n\n" : " "}${closing}`;
}

function firstSentences(text: string, count: number): string {
  const sentences = sentencesOf(text);
  return sentences.length <= count ? text : sentences.slice(0, Math.max(count, 0)).join(" ");
}

function firstWords(text: string, count: number): string {
  const words = text.split(/\s+/).filter(Boolean);
  return words.length <= count ? text : ended(words.slice(0, Math.max(count, 0)).join(" "));
}

function firstCharacters(text: string, count: number): string {
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
