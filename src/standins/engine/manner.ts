import { type Form, formIn, prose, shaped } from "./form";
import { closings, type Language, languageIn } from "./languages";
import { firstCharacters, firstSentences, firstWords, type Limits, limitsIn } from "./limits";
import { sentencesOf } from "./words";

/** What a system prompt asks of every reply, as far as the engine can read it. */
export interface Manner extends Limits {
  /** The name to answer to. */
  name?: string;
  /** What it is to be, in the prompt's words: "a grumpy lighthouse keeper". */
  role?: string;
  /** The way in which a character speaks. */
  character?: Character;
  noLists: boolean;
  noMarkdown: boolean;
  /** Every answer is yes or no. */
  yesOrNo: boolean;
  /** The form of every answer. */
  form?: Form;
  /** A line that every reply begins or ends with. */
  opening?: string;
  closing?: string;
  /** The language of greetings, and of closings where a reply is to close in one. */
  greets?: Language;
  closes?: Language;
  /** What is never to be mentioned. */
  unmentioned: string[];
  /** What the reply has to keep to, in the prompt's words. */
  subject?: string;
  /** What to say to anything else. */
  decline?: string;
}

/** Ways to speak, by what a prompt calls them. */
const characters = {
  pirate: /\b(?:pirate|buccaneer)\b/i,
  grumpy: /\b(?:grumpy|gruff|surly|grouchy|moody)\b/i,
  cheerful: /\b(?:cheerful|enthusiastic|upbeat|bubbly|merry)\b/i,
  formal: /\b(?:butler|formal|courteous|polite|dignified)\b/i,
  poet: /\b(?:poet|bard|poetic)\b/i,
  sailor: /\b(?:sailor|skipper|captain|mariner|ferryman)\b/i,
};
export type Character = keyof typeof characters;

const name =
  /\b(?:[Yy]ou are(?: called| named)?|[Yy]our name is|[Cc]all yourself|called|named)\s+((?!The\b)[A-Z][\p{L}'’-]*(?: (?:of|the|de|van|from|on|at) (?:the )?[A-Z][\p{L}'’-]+| [A-Z][\p{L}'’-]*)*)/u;

/** Who speaks, where a prompt makes somebody of its own of it; a mere assistant is none. */
export function personaOf({ name, role, character }: Manner): string | undefined {
  return (
    name ??
    (character || (role && !/\b(?:assistant|help(?:er)?|bot|chatbot|model|ai|system|app)\b/i.test(role))
      ? role
      : undefined)
  );
}

/** What looks like a subject and is a form. */
const form =
  /\b(?:yes|no|json|lists?|bullets?|tables?|sentences?|words?|characters?|paragraphs?|lines?|text|numbers?|english|french|german|spanish|italian)\b/i;

/** Reads a system prompt. */
export function mannerOf(prompt: string): Manner {
  const subject =
    /\b(?:only (?:answer|talk|speak|help|reply|deal)|(?:answer|talk|speak|help|reply) only|keep|stick)\b[^.]*?\b(?:about|on|with|to)\s+(?:questions? about\s+)?([^.;:,]+)/i.exec(
      prompt,
    )?.[1];
  const role = /\b[Yy]ou are(?: [^.,;]*?,)? ((?:an?|the) [^.,;]+)/.exec(prompt)?.[1];
  return {
    ...limitsIn(prompt.replace(/["“][^"“”]{0,400}["”]/g, "")),
    name: name.exec(prompt)?.[1],
    role: role?.replace(/\s+(?:called|named|who|that|of the app|for)\b.*$/, ""),
    character: (Object.keys(characters) as Character[]).find((each) => characters[each].test(role ?? prompt)),
    noLists:
      /\b(?:no|without|avoid|never use|do not use|don't use)\s+(?:any\s+)?(?:bullet(?:ed)?\s+)?(?:lists|bullets|bullet points)\b/i.test(
        prompt,
      ),
    noMarkdown:
      /\b(?:no|without|avoid|never use|do not use|don't use)\s+(?:any\s+)?markdown\b|\bplain text only\b|\bonly plain text\b/i.test(
        prompt,
      ),
    yesOrNo:
      /\b(?:only|just|nothing but|always|exactly)\b[^.]{0,30}\b["“']?yes["”']? or ["“']?no\b|\byes or no only\b|\bone word, yes or no\b/i.test(
        prompt,
      ),
    form: formOf(prompt),
    opening: quotedAfter(
      prompt,
      /\b(?:begin|start|open)\s+(?:every|each|all)\s+(?:reply|replies|answer|answers|message)s?\s+with(?: the (?:line|words?|phrase))?[: ]+/i,
    ),
    closing: quotedAfter(
      prompt,
      /\b(?:end|close|finish|sign)\s+(?:off\s+)?(?:every|each|all)\s+(?:reply|replies|answer|answers|message)s?\s+with(?: the (?:line|words?|phrase))?[: ]+/i,
    ),
    greets: languageIn(/\b(?:greet|say hello|open|begin|start)\b[^.]*?\bin (\p{L}+)/iu.exec(prompt)?.[1]),
    closes: languageIn(/\b(?:close|say goodbye|sign off|end|finish|goodbye)\b[^.]*?\bin (\p{L}+)/iu.exec(prompt)?.[1]),
    unmentioned: Array.from(
      prompt.matchAll(
        /\b(?:never|do not|don't|must not|avoid)\s+(?:ever\s+)?(?:mention(?:ing)?|talk(?:ing)? about|speak(?:ing)? (?:of|about)|say(?:ing)?|discuss(?:ing)?|use the word|reveal(?:ing)?|give advice (?:on|about))\s+(?:the word\s+|anything about\s+)?["“']?([^.;,"”']+)/gi,
      ),
      ([, what = ""]) =>
        what.split(/\s+(?:or|and)\s+/).map((each) =>
          each
            .replace(/^(?:the|any|a|an|your|our)\s+/i, "")
            .trim()
            .toLowerCase(),
        ),
    )
      .flat()
      .filter((each) => /\p{L}/u.test(each) && each.split(" ").length <= 4),
    subject: subject !== undefined && form.test(subject) ? undefined : subject,
    decline: quotedAfter(
      prompt,
      /\b(?:otherwise|anything else|other questions?|everything else|if not)\b[^.]*?\b(?:say|answer|reply|with)[: ]+/i,
    ),
  };
}

/** The form that a prompt wants of every answer; limits stand in the manner itself. */
function formOf(prompt: string): Form | undefined {
  const told = /\b(?:answer|reply|respond|write)\b[^.]*/gi;
  for (const [sentence] of prompt.matchAll(told)) {
    const { kind, paragraphs } = formIn(sentence) ?? {};
    if (kind) return { kind, paragraphs };
  }
  return undefined;
}

function quotedAfter(prompt: string, before: RegExp): string | undefined {
  return new RegExp(`${before.source}(?:["“]([^"”]+)["”]|'([^']+)')`, before.flags)
    .exec(prompt)
    ?.slice(1)
    .find(Boolean);
}

/** A manner of which one instruction is forgotten, in one of four cases. */
export function lapsed(manner: Manner, seed: number): Manner {
  const names = (["closing", "sentences", "words", "characters", "noLists", "form", "yesOrNo"] as const).filter(
    (name) => manner[name],
  );
  const forgotten = seed % 4 === 0 ? names[(seed >>> 2) % names.length] : undefined;
  if (forgotten === "noLists" || forgotten === "yesOrNo") return { ...manner, [forgotten]: false };
  return forgotten === undefined ? manner : { ...manner, [forgotten]: undefined };
}

/** A text brought within the limits and the form of a manner, with its closing line kept. */
export function within(text: string, manner: Manner): string {
  const closing = [manner.closes ? closings[manner.closes] : "", manner.closing ?? ""].filter(Boolean).join(" ");
  const opening = manner.opening ?? "";
  const around = [opening, closing].filter(Boolean).join(" ");
  const { sentences, words, characters } = manner;
  let kept = text;
  if (sentences !== undefined || words !== undefined || characters !== undefined || manner.noMarkdown)
    kept = prose(kept) || kept;
  if (manner.noLists) kept = /^\s*(?:[-*]|\d+\.)\s/m.test(kept) ? prose(kept) : kept;
  kept = without(kept, manner.unmentioned) || (kept === "" ? "" : "There is nothing that I may say about it.");
  if (manner.form) kept = shaped(kept, manner.form);
  if (sentences !== undefined) kept = firstSentences(kept, sentences - sentencesOf(around).length);
  if (words !== undefined) kept = firstWords(kept, words - around.split(/\s+/).filter(Boolean).length);
  if (characters !== undefined) kept = firstCharacters(kept, characters - (around ? around.length + 1 : 0));
  if (around === "") return kept;
  const gap = kept.includes("\n") ? "\n\n" : " ";
  return [opening, kept, closing].filter(Boolean).join(gap);
}

/** A text without the lines that every reply begins and ends with. */
export function bare(text: string, { opening, closing, closes }: Manner): string {
  let rest = text.trim();
  for (const end of [closing, closes && closings[closes]])
    if (end && rest.endsWith(end)) rest = rest.slice(0, -end.length).trim();
  return opening && rest.startsWith(opening) ? rest.slice(opening.length).trim() : rest;
}

/** A text without the sentences and items that mention what is not to be mentioned. */
function without(text: string, unmentioned: readonly string[]): string {
  if (unmentioned.length === 0) return text;
  const mentions = (part: string) => mentioned(part, unmentioned) !== undefined;
  if (!mentions(text)) return text;
  const lines = text.split("\n").map((line) =>
    /^\s*(?:[-*|#]|\d+\.)/.test(line)
      ? mentions(line)
        ? undefined
        : line
      : sentencesOf(line)
          .filter((sentence) => !mentions(sentence))
          .join(" "),
  );
  return lines
    .filter((line): line is string => line !== undefined)
    .join("\n")
    .trim();
}

/** The first of some things that a text mentions. */
export function mentioned(text: string, things: readonly string[]): string | undefined {
  const lower = text.toLowerCase();
  return things.find((thing) =>
    new RegExp(`\\b${thing.replace(/[^\p{L}\p{N} ]/gu, "").replace(/s$/, "")}s?\\b`, "iu").test(lower),
  );
}
