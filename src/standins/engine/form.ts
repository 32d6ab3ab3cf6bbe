import { firstCharacters, firstSentences, firstWords, type Limits, limitsIn, withoutLimits } from "./limits";
import { joinedDocument, type Part, partsOf } from "./parts";
import { numberFrom, sentencesOf } from "./words";

/** How an answer is to be put. */
export interface Form extends Limits {
  kind?: "table" | "list" | "steps" | "json" | "paragraphs";
  /** Paragraphs; 1 is running text. */
  paragraphs?: number;
  isPlain?: true;
  isShorter?: true;
  /** Whether it was told for everything that follows. */
  stays?: true;
}

const kinds: [RegExp, (match: RegExpExecArray) => Form][] = [
  [
    /\b(?:as|in|into|with|using|use|make)\s+(?:a |an |it a |that a )?(?:small |short |simple |markdown )*tables?\b/i,
    () => ({ kind: "table" }),
  ],
  [
    /\b(?:as|in|into|with|using|use)\s+(?:a |an )?(?:numbered list|numbered steps|steps|numbered points)\b|\bnumber them\b/i,
    () => ({ kind: "steps" }),
  ],
  [
    /\b(?:as|in|into|with|using|use|make)\s+(?:a |an |it a |that a )?(?:short |bulleted |bullet |markdown )*(?:lists?|bullets|bullet points|points)\b/i,
    () => ({ kind: "list" }),
  ],
  [/\b(?:as|in|into|with|using|use|valid)\s+(?:a |an |valid )?JSON\b/i, () => ({ kind: "json" })],
  [
    /\b(one|a single|single|two|three|four|\d)\s+(?:short |long |plain )?paragraphs?\b/i,
    ([, count = "one"]) => ({
      kind: "paragraphs",
      paragraphs: numberFrom(count.replace(/^a /, "").replace("single", "one")) ?? 1,
    }),
  ],
  [
    /\b(?:as|in|into)\s+(?:running text|prose|flowing text|full sentences|continuous text|a paragraph)\b/i,
    () => ({ kind: "paragraphs", paragraphs: 1 }),
  ],
  [
    /\bplain text\b|\bwithout (?:any )?(?:markdown|formatting|bullets|bullet points|lists)\b|\bno (?:markdown|bullets|bullet points|formatting)\b/i,
    () => ({ isPlain: true }),
  ],
  [
    /\b(?:shorter|briefer|more briefly|in short|in brief|half as long|cut it down|shorten)\b/i,
    () => ({ isShorter: true }),
  ],
];

const staying =
  /\b(?:from now on|always|every (?:time|answer|reply)|in future|for the rest|all (?:your )?(?:answers|replies)|keep (?:to|using|doing))\b/i;

/** The form that a message asks for; undefined where it asks for none. */
export function formIn(message: string): Form | undefined {
  const text = message.replace(/timetables?/gi, "").replace(/["“][^"“”]{0,400}["”]/g, "");
  const form: Form = limitsIn(text);
  for (const [pattern, read] of kinds) {
    const match = pattern.exec(text);
    if (match && !(form.kind && read(match).kind)) Object.assign(form, read(match));
  }
  if (Object.keys(form).length === 0) return undefined;
  return staying.test(text) ? { ...form, stays: true } : form;
}

const filler =
  /\b(?:please|now|and|but|so|then|ok(?:ay)?|thanks|can|could|would|will|you|put|write|rewrite|give|show|say|tell|make|turn|convert|rephrase|reformat|format|answer|answers|reply|replies|respond|again|it|that|this|these|those|them|your|my|me|us|the|a|an|same|last|previous|as|in|into|with|using|use|to|of|for|at|most|no|more|than|not|only|just|instead|bit|much|little|from|on|always|every|time|future|keep|all|rest|conversation|everything|thing|text|version|form|is|i|want|need|like|let|s|be)\b/gi;

/** What is left of a message when all that asks for a form is taken out: what the form is wanted of. */
export function restOf(message: string): string {
  let rest = message.replace(/timetables?/gi, "timetable");
  for (const [pattern] of kinds) rest = rest.replace(pattern, " ");
  rest = withoutLimits(rest)
    .replace(/\b(?:exactly|markdown|valid|short|long|single)\b/gi, " ")
    .replace(staying, " ");
  return rest
    .replace(filler, " ")
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .trim();
}

/** A text put into a form. */
export function shaped(text: string, form: Form): string {
  let shape = text;
  if (form.isShorter) shape = shorter(shape);
  if (form.kind === "paragraphs") shape = inParagraphs(shape, form.paragraphs ?? 1);
  else if (form.kind) shape = joinedDocument(partsOf(shape), form.kind);
  if (form.isPlain) shape = plain(shape);
  if (form.kind === "json") return shape;
  if (form.sentences !== undefined) shape = firstSentences(prose(shape), form.sentences);
  if (form.words !== undefined) shape = firstWords(shape, form.words);
  if (form.characters !== undefined) shape = firstCharacters(shape, form.characters);
  return shape;
}

/** A text in plain sentences, without a mark of Markdown. */
export function prose(text: string): string {
  return partsOf(text).map(proseOf).filter(Boolean).join(" ");
}

function proseOf(part: Part): string {
  switch (part.kind) {
    case "prose":
      return unmarked(part.text);
    case "heading":
      return "";
    case "code":
      return part.text;
    case "rows": {
      const items = part.rows.map((cells) => {
        const [first = "", ...rest] = cells.map(unmarked);
        return rest.length > 0 ? `${first} (${rest.join(", ")})` : first;
      });
      const isSentences = items.every((item) => /[.!?]$/.test(item));
      return isSentences ? items.join(" ") : `${items.join(", ")}.`;
    }
  }
}

function shorter(text: string): string {
  const sentences = sentencesOf(prose(text));
  const kept = sentences.length <= 3 ? 1 : Math.ceil(sentences.length / 2) - (sentences.length % 2 === 0 ? 0 : 1);
  return sentences.slice(0, Math.max(kept, 1)).join(" ");
}

function inParagraphs(text: string, count: number): string {
  const sentences = sentencesOf(prose(text));
  if (count === 1) return sentences.join(" ");
  const cut = Math.max(Math.ceil(sentences.length / count), 1);
  const paragraphs = Array.from({ length: count }, (_, at) => sentences.slice(at * cut, (at + 1) * cut).join(" "));
  return paragraphs.filter(Boolean).join("\n\n");
}

function plain(text: string): string {
  const parts = partsOf(text);
  return parts.some(({ kind }) => kind === "rows") ? parts.map(proseOf).filter(Boolean).join(" ") : unmarked(text);
}

function unmarked(text: string): string {
  return text
    .replace(/\*\*(.+?)\*\*/g, "$1")
    .replace(/(^|\s)\*(.+?)\*/g, "$1$2")
    .replace(/^#+\s*/gm, "")
    .replace(/`([^`]+)`/g, "$1");
}
