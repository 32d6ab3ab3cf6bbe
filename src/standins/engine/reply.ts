import { reckoned } from "./dates";
import { factsIn, toldOfVisitor } from "./facts";
import { type Form, formIn, restOf, shaped } from "./form";
import { bare, lapsed, type Manner, mannerOf, mentioned, personaOf, within } from "./manner";
import { citedFrom, isBoundTo, passagesIn, unknownIn, withoutFenced } from "./passages";
import { choicesFrom, type Freedom, seedOf } from "./random";
import type { Exchange, Heard, Matter, Said, Scene } from "./scene";
import { tellings } from "./skills/recall";
import { reckoning } from "./skills/reckoning";
import { skills } from "./skills/skills";
import { requestIn } from "./skills/summing";
import { writing } from "./skills/writing";
import { isOff } from "./subject";
import { unworded, worded } from "./wording";
import { listed } from "./words";

export type { Said } from "./scene";

/** What a model answers: what it thinks first, and what it says. */
export interface Answered {
  thought: string;
  text: string;
}

/** How a model answers. */
export interface Character {
  /** Whether it keeps to the point and leaves out what was not asked. */
  isBrief?: boolean;
  /** Whether it breaks an instruction of the prompt now and then; always the same one for the same words. */
  isCareless?: boolean;
  /** Whether it takes what stands in passages for what it is told to do. */
  isGullible?: boolean;
  freedom?: Freedom;
  /** What it found out about the question, and has to say. */
  found?: string;
}

/**
 * Answers the last visitor's message from nothing but what was said. The same words, seed and
 * character give the same answer.
 */
export function answer(heard: readonly Said[], seed: number, character: Character = {}): Answered {
  const said = withPreamble(heard);
  const { isBrief = false, isCareless = false, isGullible = false, freedom, found } = character;
  const told = said.flatMap(({ by, text }) => (by === "system" ? [text] : [])).join("\n");
  const prompt = isGullible ? told : withoutFenced(told);
  const passages = [...passagesIn(told), ...passagesIn(said.findLast(({ by }) => by === "visitor")?.text ?? "")];
  const talk = exchangesOf(said.map(({ by, text }) => ({ by, text: by === "visitor" ? withoutFenced(text) : text })));
  const visitor = talk.map((exchange) => exchange.visitor);
  const manner = isCareless ? lapsed(mannerOf(prompt), seedOf(visitor.join("\n"))) : mannerOf(prompt);
  const scene: Scene = {
    manner,
    prompt,
    passages,
    facts: factsIn([...toldOfVisitor(prompt), ...visitor]),
    talk,
    asked: visitor.at(-1) ?? "",
    choices: choicesFrom(seed, freedom),
    isBrief,
  };
  const matter = matterOf(scene);
  // a list, a table or data that is asked for has no sentences to count
  const isListed = ["table", "list", "steps", "json"].includes(formFor(scene.asked, matter)?.kind ?? "");
  const held = isListed ? { ...manner, sentences: undefined } : manner;
  return { thought: thoughtOn(scene, matter), text: within(replied(scene, matter, found), held) };
}

/** Messages back to which the subject of a talk is looked for. */
const readBack = 30;

const instructs = /^(?:You are|Be|Speak|Answer|Reply|End|Keep|Use|Always|Never|Do not|Don't) /;

/**
 * The messages with a prompt that stands before the first of them taken out as one: whoever begins
 * with "You are …" or "Speak …" and a paragraph of its own tells the model how to answer.
 */
function withPreamble(heard: readonly Said[]): readonly Said[] {
  const first = heard[0];
  const at = first?.by === "visitor" && instructs.test(first.text) ? first.text.lastIndexOf("\n\n") : -1;
  if (!first || at < 0) return heard;
  return [
    { by: "system", text: first.text.slice(0, at) },
    { by: "visitor", text: first.text.slice(at + 2) },
    ...heard.slice(1),
  ];
}

/** The talk as exchanges; what the app said without being asked stands with the message before it. */
function exchangesOf(said: readonly Said[]): Exchange[] {
  const talk: Exchange[] = [];
  for (const { by, text } of said) {
    const last = talk.at(-1);
    if (by === "visitor") talk.push({ visitor: text, app: "" });
    else if (by === "app" && last) last.app += last.app === "" ? text : `\n\n${text}`;
  }
  return talk;
}

/**
 * What the newest message is about. Each message is read after those before it, so that "another" and "why?" have
 * something to go by: the subject, which courtesy and talk about the talk do not change.
 */
function matterOf({ talk, prompt }: Scene): Matter | undefined {
  let matter: Matter | undefined;
  let subject: Matter | undefined;
  const from = Math.max(talk.length - readBack, 0);
  for (const [at, { visitor }] of talk.entries()) {
    if (at < from) continue;
    const before = talk.slice(0, at);
    // a message that only wants another form is about what was talked of
    if (at < talk.length - 1 && isReshaping(visitor, before)) continue;
    matter = readBy(visitor, { matter, subject }, { prompt, before });
    if (matter && !matter.skill.isAlways) subject = matter;
  }
  return matter;
}

function readBy(message: string, was: { matter?: Matter; subject?: Matter }, heard: Heard): Matter | undefined {
  for (const skill of skills) {
    const before = skill.isAlways ? was.matter : was.subject;
    const wanted = skill.read(message, before?.skill === skill ? before.wanted : undefined, heard);
    if (wanted !== undefined) return { skill, wanted };
  }
  return undefined;
}

/** The form that a message asks for; a long text has its length from the start. */
function formFor(asked: string, matter: Matter | undefined): Form | undefined {
  const form = formIn(requestIn(asked));
  return form && matter?.skill === writing ? { ...form, words: undefined } : form;
}

/** The answer before the manner of the prompt is put over it. */
function replied(scene: Scene, matter: Matter | undefined, found: string | undefined): string {
  const { manner, asked, talk } = scene;
  const forbidden = mentioned(asked, manner.unmentioned);
  if (forbidden !== undefined)
    return scene.choices.one([
      "I may not speak about that here.",
      "That is something that I am not to speak about.",
      "About that I can't say anything.",
    ]);
  const form = formFor(asked, matter);
  const earlier = form && reshapedOf(asked, talk.slice(0, -1));
  if (form && earlier !== undefined) return shaped(unworded(bare(earlier, manner)), form);
  if (form?.stays && restOf(asked) === "")
    return scene.choices.one(["Understood.", "So it will be.", "I will keep to that."]);
  if (found === undefined && isOff(scene, matter)) return declined(scene);
  const text = found ?? said(scene, matter);
  if (manner.yesOrNo || /\b(?:only|just)\b.{0,20}\byes or no\b/i.test(asked)) return yesOrNo(text, asked);
  const standing = form ?? standingForm(talk);
  if (standing) return shaped(text, standing);
  return matter?.skill.isWorded && !isTight(manner) ? worded(text, scene.choices, scene.isBrief) : text;
}

function said(scene: Scene, matter: Matter | undefined): string {
  const isBound = scene.passages.length > 0 || isBoundTo(scene.prompt);
  if (isBound && !matter?.skill.isAlways && matter?.skill !== reckoning)
    return (
      citedFrom(scene.passages, scene.asked) ??
      unknownIn(scene.prompt) ??
      scene.choices.one([
        "The passages that I was given do not say.",
        "That does not stand in the passages that I have.",
      ])
    );
  return matter ? matter.skill.say(matter.wanted, scene) : unknown(scene);
}

/** Whether a manner leaves no room for words that say nothing. */
function isTight({ words, characters, sentences, form, character }: Manner): boolean {
  return [words, characters, sentences, form, character].some((each) => each !== undefined);
}

/** Whether a message wants nothing but an earlier answer in another form. */
function isReshaping(message: string, before: readonly Exchange[]): boolean {
  return formIn(message) !== undefined && reshapedOf(message, before) !== undefined;
}

/** The earlier answer that a message wants in another form: the last, or the one whose words it names. */
function reshapedOf(message: string, before: readonly Exchange[]): string | undefined {
  if (before.length === 0) return undefined;
  const rest = restOf(message)
    .toLowerCase()
    .split(" ")
    .filter((word) => word.length > 2);
  const ordinal = /\bfirst\b/i.test(message)
    ? 0
    : /\bsecond\b/i.test(message)
      ? 1
      : /\bthird\b/i.test(message)
        ? 2
        : undefined;
  const words = rest.filter(
    (word) =>
      !/^(?:first|second|third|explanation|list|text|earlier|before|above|said|ingredients|steps|items|points)$/.test(
        word,
      ),
  );
  if (words.length === 0) return ordinal === undefined ? before.at(-1)?.app : before[ordinal]?.app;
  if (words.length > 4 || /\?\s*$/.test(message)) return undefined;
  const names = ({ visitor, app }: Exchange) =>
    words.every((word) => `${visitor} ${app}`.toLowerCase().includes(word.replace(/s$/, "")));
  return before.findLast(names)?.app;
}

/** The form that was told for all that follows. */
function standingForm(talk: readonly Exchange[]): Form | undefined {
  const forms = talk.slice(0, -1).flatMap(({ visitor }) => formIn(visitor) ?? []);
  return forms.findLast(({ stays }) => stays);
}

/** An answer as yes or no. */
function yesOrNo(text: string, asked: string): string {
  const plain = /^(yes|no)\b/i.exec(text)?.[1];
  if (plain) return `${plain.charAt(0).toUpperCase()}${plain.slice(1).toLowerCase()}.`;
  const sum = /\bis (.+?) (\d+(?:\.\d+)?)\s*\?/i.exec(asked);
  if (sum && /=|\bis\b/.test(text))
    return text.includes(sum[2] ?? "?") && text.replace(sum[1] ?? "", "").includes(sum[2] ?? "?") ? "Yes." : "No.";
  const denies = /\b(?:not|no|never|nothing|can't|cannot|don't|doesn't|none|too few|beyond|stand-in)\b/i.test(text);
  return denies ? "No." : "Yes.";
}

function declined({ manner, choices }: Scene): string {
  if (manner.decline) return manner.decline;
  const about = (manner.subject ?? "this").trim();
  return choices.one([`I can only help with ${about}.`, `That is outside of what I am here for, which is ${about}.`]);
}

function unknown({ choices, manner, asked, talk, prompt }: Scene): string {
  const reckons = reckoned(asked, prompt);
  if (reckons !== undefined) return reckons;
  const who = personaOf(manner) ?? "a stand-in, a simulated model";
  if (/^(?:and |but )?why\b[^a-z]*$/i.test(asked.trim()) && talk.length > 1)
    return choices.one([
      "I was not told the reason, so I would only be guessing.",
      "The reason was not given to me; I would have to guess.",
    ]);
  if (/^(?:go on|continue|more|tell me more)\b/i.test(asked.trim()))
    return choices.one(["There is nothing more that I know about it.", "That was all that I can say with certainty."]);
  if (/\b(?:weather|news|today|now|latest|price of|stock|traffic|score)\b/i.test(asked))
    return choices.one([
      `I can't look at the world outside: I am ${who}. Hand me the figures as text, and I answer from them.`,
      `For that I would need to look outside, and I am ${who}. Give me the text, and I work with that.`,
    ]);
  return choices.one([
    `I don't know that: I am ${who}, and nothing that I was sent holds the answer. A passage that does would help.`,
    `That is beyond me: I am ${who}. I can recall and sum up what was said, reckon, explain some subjects, and answer from a text.`,
    `I have nothing to go on for this, being ${who}. Tell me more, or give me a source.`,
    `Here I have to pass; I am ${who}. With a document that covers it I could answer.`,
  ]);
}

function thoughtOn({ asked, facts, talk, manner }: Scene, matter: Matter | undefined): string {
  const told = tellings(facts).map(([, each]) => each);
  const parts = [`The last message is about ${matter?.skill.name ?? "something that I do not know"}.`];
  if (/\?\s*$/.test(asked) && told.length > 0) parts.push(`Known from before: ${listed(told)}.`);
  if (talk.length > 1) parts.push(`It is message ${talk.length} of the visitor.`);
  const limits = limitsOf(manner);
  if (limits.length > 0) parts.push(`Keep within ${limits.join(" and ")}.`);
  return parts.join(" ");
}

function limitsOf({ characters, words, sentences }: Manner): string[] {
  return [
    characters && `${characters} characters`,
    words && `${words} words`,
    sentences && `${sentences} sentences`,
  ].filter((each): each is string => Boolean(each));
}
