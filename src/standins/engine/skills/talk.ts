import { asks } from "../facts";
import type { Exchange, Scene, Skill } from "../scene";
import { counted, sentencesOf } from "../words";

/** What is asked about the talk itself. */
type Wanted =
  | { what: "repeat" }
  | { what: "count"; of: "questions" | "messages" }
  | { what: "list"; of: "questions" | "subjects" }
  | { what: "nth"; by: "visitor" | "app"; place: number; onlyQuestions: boolean }
  | { what: "about"; by: "visitor" | "app"; words: string }
  | { what: "who"; words: string };

const ordinals = ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"];

/** Talks about the talk: what was said, in what order, by whom. */
export const talk: Skill<Wanted> = {
  name: "the talk itself",
  isAlways: true,
  about: /\b(?:conversation|talk)\b/i,
  read(message, _before, { before }) {
    if (before.length === 0 && !/\b(?:where did we|what did i|how many)\b/i.test(message)) return undefined;
    const text = message.trim();
    if (
      /^(?:please |can you |could you )?(?:repeat (?:that|it|your(?:self| last (?:answer|reply|message))?)|say (?:that|it) again|what was that|once more|come again)(?: (?:please|again|word for word))*[.?!]*$/i.test(
        text,
      )
    )
      return { what: "repeat" };
    const howMany = /\bhow many (?:(questions)|messages|things|times)\b.*\b(?:i|we|me|so far|asked|sent)\b/i.exec(text);
    if (howMany) return { what: "count", of: howMany[1] ? "questions" : "messages" };
    if (
      /\bwhat (?:were|have|did|are) we (?:been )?(?:just )?(?:talk(?:ed|ing)?|discuss(?:ed|ing)?|speak(?:ing)?|chat(?:ted|ting)?)\b|\bwhat (?:was|is|has) (?:this|our|the) (?:conversation|talk|chat)\b.*\babout\b|\bwhat have we (?:covered|spoken)\b/i.test(
        text,
      )
    )
      return { what: "list", of: "subjects" };
    if (/\b(?:list|what were|which were|what are)\b.*\bmy questions\b|\bquestions (?:have|did) i ask/i.test(text))
      return { what: "list", of: "questions" };
    if (/\bwhere did we (?:start|begin)\b|\bhow did (?:we|this|it) (?:start|begin)\b/i.test(text))
      return { what: "nth", by: "visitor", place: 0, onlyQuestions: false };
    const who =
      /\bwho (?:said|mentioned|brought up|asked)\b\s*(?:about|that)?\s*["“]?(?:anything|something)?(?: about)?\s*([^"”?]+)/i.exec(
        text,
      )?.[1];
    if (who) return { what: "who", words: who };
    return nth(text) ?? about(text);
  },
  say(wanted, scene) {
    const before = scene.talk.slice(0, -1);
    switch (wanted.what) {
      case "repeat":
        return before.at(-1)?.app ?? "I have not said anything yet.";
      case "count":
        return countOf(before, wanted.of, scene);
      case "list":
        return listOf(before, wanted.of, scene);
      case "nth":
        return nthOf(before, wanted, scene);
      case "about":
        return aboutOf(before, wanted, scene);
      case "who":
        return whoSaid(before, wanted.words);
    }
  },
};

function nth(text: string): Wanted | undefined {
  const by =
    /\b(?:did|have) (i|we|you)\b/i.exec(text)?.[1] ??
    /\b(my|your) (?:\w+ )?(?:question|message|answer|reply|request)\b/i.exec(text)?.[1];
  if (
    !by ||
    !/\b(?:say|said|ask|asked|tell|told|write|wrote|answer|answered|want|question|message|reply|request)\b/i.test(text)
  )
    return undefined;
  const speaker = /^(?:you|your)$/i.test(by) ? "app" : "visitor";
  const ordinal = ordinals.findIndex((each) => new RegExp(`\\b${each}\\b`, "i").test(text));
  const onlyQuestions = /\b(?:ask|asked|question)\b/i.test(text);
  if (ordinal >= 0) return { what: "nth", by: speaker, place: ordinal, onlyQuestions };
  if (/\b(?:before that|before this|one before)\b/i.test(text))
    return { what: "nth", by: speaker, place: -2, onlyQuestions };
  if (/\b(?:last|previous|just|just now|latest|a moment ago)\b/i.test(text))
    return { what: "nth", by: speaker, place: -1, onlyQuestions };
  return undefined;
}

function about(text: string): Wanted | undefined {
  const match =
    /\bwhat did (i|you|we) (?:say|tell (?:me|you)|ask|answer|write|suggest|recommend) (?:me |you )?(?:about|on|regarding|to) (.+?)[?.!]*$/i.exec(
      text,
    );
  const thing = /\bwhat (?:was|is|were) (?:the|my|your|that) (.+?) about\b/i.exec(text)?.[1];
  if (thing && !/conversation|talk|chat/i.test(thing)) return { what: "about", by: "visitor", words: thing };
  return match
    ? { what: "about", by: /you/i.test(match[1] ?? "") ? "app" : "visitor", words: match[2] ?? "" }
    : undefined;
}

function countOf(before: readonly Exchange[], of: "questions" | "messages", { choices }: Scene): string {
  const count = before.filter(({ visitor }) => of === "messages" || sentencesOf(visitor).some(asks)).length;
  const what = of === "messages" ? counted(count, "message", "messages") : counted(count, "question", "questions");
  return choices.one([
    `So far ${what}, before this one.`,
    `Before this one there ${count === 1 ? "was" : "were"} ${what}.`,
    `I count ${what} before this one.`,
  ]);
}

function listOf(before: readonly Exchange[], of: "questions" | "subjects", { choices }: Scene): string {
  const shown = before.filter(({ visitor }) => of === "subjects" || sentencesOf(visitor).some(asks));
  if (shown.length === 0) return "There was nothing before this message.";
  const lead =
    of === "questions"
      ? choices.one(["You asked, in this order:", "These were your questions, in order:"])
      : choices.one(["We talked about this, in order:", "So far we spoke of:", "In this order:"]);
  return `${lead}\n\n${shown.map(({ visitor }, at) => `${at + 1}. “${quoted(visitor)}”`).join("\n")}`;
}

function nthOf(
  before: readonly Exchange[],
  { by, place, onlyQuestions }: Extract<Wanted, { what: "nth" }>,
  { choices }: Scene,
): string {
  const all = by === "app" ? before.map(({ app }) => app) : before.map(({ visitor }) => visitor);
  const questions = all.filter((each) => sentencesOf(each).some(asks));
  const of = by === "visitor" && onlyQuestions && questions.length > 0 ? questions : all;
  const found = of.at(place);
  if (found === undefined)
    return `There were only ${counted(of.length, "message", "messages")} of ${by === "app" ? "mine" : "yours"} so far.`;
  const who = by === "app" ? "I" : "You";
  const did = by === "visitor" && of === questions ? "asked" : "said";
  const when = place >= 0 ? (place === 0 ? " first" : ` as the ${ordinals[place]}`) : "";
  return choices.one([
    `${who} ${did}${when}: “${quoted(found)}”`,
    `“${quoted(found)}” – that is what ${who === "You" ? "you" : "I"} ${did}${when}.`,
  ]);
}

/** The sentence of somebody's messages that says most about some words. */
function aboutOf(
  before: readonly Exchange[],
  { by, words }: Extract<Wanted, { what: "about" }>,
  { choices }: Scene,
): string {
  const wanted = wordsIn(words);
  const sentences = before.flatMap(({ app, visitor }) => sentencesOf(by === "app" ? app : visitor));
  const hits = (sentence: string) => wanted.filter((word) => sentence.toLowerCase().includes(word)).length;
  const best = sentences.filter((each) => hits(each) > 0).sort((a, b) => hits(b) - hits(a))[0];
  const who = by === "app" ? "I" : "You";
  return best
    ? choices.one([`${who} said: “${best}”`, `About that ${who === "I" ? "I" : "you"} said: “${best}”`])
    : `${who} have not said anything about ${words.replace(/[?.!]+$/, "")}.`;
}

function whoSaid(before: readonly Exchange[], words: string): string {
  const wanted = wordsIn(words);
  const has = (text: string) => wanted.length > 0 && wanted.every((word) => text.toLowerCase().includes(word));
  for (const { visitor, app } of before) {
    if (has(visitor)) return `You did: “${quoted(visitor)}”`;
    if (has(app)) return "I did.";
  }
  return "Neither of us has said that so far.";
}

function wordsIn(text: string): string[] {
  return (text.toLowerCase().match(/[\p{L}\p{N}:.]{3,}/gu) ?? [])
    .filter((word) => !/^(?:the|and|that|about|for|with|was|were)$/.test(word))
    .map((word) => word.replace(/[.:]+$|s$/g, ""));
}

/** A message short enough to be quoted. */
function quoted(text: string): string {
  const line = text.replace(/\s+/g, " ").trim();
  return line.length <= 160 ? line : `${line.slice(0, line.lastIndexOf(" ", 157))} …`;
}
