import { sumIn } from "./arithmetic";
import { type Block, type RowStyle, written } from "./blocks";
import { reckoned } from "./dates";
import { asks, type Facts, factsIn, isEmpty } from "./facts";
import { atLength } from "./long";
import { lapsed, type Manner, mannerOf, within } from "./manner";
import { citedFrom, type Passage, passagesIn } from "./passages";
import { completed, followsOn, type Question, questionIn, type Restyle, restyleOf } from "./question";
import { type Choices, choicesFrom, type Freedom, seedOf } from "./random";
import { counted, euros, listed, sentencesOf, spelt } from "./words";
import { type Place, places, type Rule, routes, rules, type Sailing, sailingAt } from "./world";

/** One message of a request, whatever its API calls the roles. */
export interface Said {
  by: "system" | "visitor" | "app";
  text: string;
}

/** What a model answers: what it thinks first, and what it says. */
export interface Answered {
  thought: string;
  text: string;
}

/** Everything an answer is made from. */
interface Scene {
  manner: Manner;
  prompt: string;
  passages: Passage[];
  facts: Facts;
  visitor: string[];
  question: Question;
  choices: Choices;
  brief: boolean;
}

/** How a model answers. */
export interface Character {
  /** Whether it keeps to the point and leaves out what was not asked. */
  isBrief?: boolean;
  /** Whether it breaks an instruction of the prompt now and then; always the same one for the same words. */
  isCareless?: boolean;
  freedom?: Freedom;
}

/**
 * Answers the last visitor's message from nothing but what was said. The same words, seed and
 * character give the same answer.
 */
export function answer(heard: readonly Said[], seed: number, character: Character = {}): Answered {
  const said = withPreamble(heard);
  const { isBrief = false, isCareless = false, freedom } = character;
  const prompt = said
    .filter(({ by }) => by === "system")
    .map(({ text }) => text)
    .join("\n");
  const visitor = said.filter(({ by }) => by === "visitor").map(({ text }) => text);
  const last = visitor.at(-1) ?? "";
  const manner = isCareless ? lapsed(mannerOf(prompt), seedOf(visitor.join("\n"))) : mannerOf(prompt);
  const restyle = visitor.length > 1 ? restyleOf(last) : undefined;
  const asked = visitor.filter((message, at) => at === 0 || !restyleOf(message));
  const scene: Scene = {
    manner,
    prompt,
    passages: passagesIn(prompt),
    facts: factsIn(visitor),
    visitor,
    question: questionAt(asked),
    choices: choicesFrom(seed, freedom),
    brief: isBrief,
  };
  const text = isOffSubject(scene)
    ? declined(scene)
    : restyle
      ? restyled(scene, restyle)
      : written(blocksFor(scene), manner, styleIn(last));
  return { thought: thoughtsOn(scene), text: within(text, manner) };
}

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

/** The question that a list of messages ends with, follow-ups completed from those before. */
function questionAt(visitor: string[]): Question {
  const question = questionIn(visitor.at(-1) ?? "");
  if (visitor.length < 2 || !followsOn(question.text)) return question;
  return completed(question, questionAt(visitor.slice(0, -1)));
}

function styleIn(text: string): RowStyle {
  return /\btable\b/i.test(text.replace(/timetable/gi, "")) ? "table" : "list";
}

function restyled(scene: Scene, restyle: Restyle): string {
  const blocks = blocksFor(scene);
  if (restyle === "shorter") return sentencesOf(written(blocks, scene.manner, "running text"))[0] ?? "";
  if (restyle === "why") return whyOf(scene);
  if (restyle === "more") return moreOn(scene);
  return written(blocks, scene.manner, restyle);
}

function blocksFor(scene: Scene): Block[] {
  const { question } = scene;
  const reckons = reckoned(question.text, scene.prompt);
  if (reckons !== undefined) return [text(reckons)];
  if (scene.passages.length > 0 && !always.has(question.topic) && question.topic !== "sum" && question.topic !== "echo")
    return [text(citedFrom(scene.passages, question.text) ?? notInPassages(scene))];
  switch (question.topic) {
    case "recall":
      return [text(recalled(scene))];
    case "beginning":
      return [text(`We started with this: “${scene.visitor[0] ?? ""}”`)];
    case "sum": {
      const sum = sumIn(question.text);
      if (sum && (scene.manner.words ?? scene.manner.characters ?? 99) < 20) return [text(`${sum.value}`)];
      return [text(sum ? `${sum.sum} = ${sum.value}` : "I can't make out the sum; write it with digits, please.")];
    }
    case "date":
      return [
        text(
          sentencesOf(scene.prompt).find((each) => /\btoday is\b/i.test(each)) ??
            "I have no clock of my own, and what I was sent does not say what day it is.",
        ),
      ];
    case "greeting":
      return [text(greeting(scene))];
    case "thanks":
      return [text(scene.choices.one(["You are welcome.", "With pleasure.", "Gladly. Have a calm crossing."]))];
    case "self":
      return [text(self(scene))];
    case "echo":
      return [text(/["“](.+?)["”]/.exec(question.text)?.[1] ?? "")];
    case "long":
      return [text(atLength(question.text, scene.choices, scene.facts.name))];
    case "statement":
      return [text(noted(scene))];
    case "timetable":
      return timetable(scene);
    case "crossing":
      return [text(crossing(scene))];
    case "bicycles":
      return bicycles(scene);
    case "fares":
      return [text(fares(scene))];
    case "unknown":
      return [text(unknown(scene))];
    default:
      return [text(ruled(scene, question.topic))];
  }
}

function notInPassages({ choices }: Scene): string {
  return choices.one(["The passages that I was given do not say.", "That does not stand in the passages that I have."]);
}

function text(text: string): Block {
  return { kind: "text", text };
}

function greeting({ manner, facts, choices }: Scene): string {
  const hello = choices.one(["Hello", "Good day", "Welcome"]);
  return `${hello}${facts.name ? `, ${facts.name}` : ""}. ${manner.name ? `This is ${manner.name}. ` : ""}${choices.one(["What can I do for you?", "How can I help?", "What would you like to know?"])}`;
}

function self({ manner }: Scene): string {
  const name = manner.name ? `I am ${manner.name}` : "I am a simulated model";
  return `${name}. I answer from what this conversation holds${manner.name ? "" : " and a little knowledge of Saltmarsh Ferry"}.`;
}

/** What was told of the journey and of oneself, topic by topic. */
function tellings(facts: Facts): [about: RegExp, told: string][] {
  const all: [RegExp, string | false | undefined][] = [
    [/\b(?:name|who am i|called)\b/i, facts.name && `your name is ${facts.name}`],
    [
      /\b(?:boat|sailing|ferry|crossing|time|when|trip|journey|leave|sail|depart\w*|on)\b/i,
      facts.sailing && `you are on the ${facts.sailing}`,
    ],
    [
      /\b(?:bicycles?|bikes?|with|bring\w*)\b/i,
      facts.bicycles !== undefined && `you have ${counted(facts.bicycles, "bicycle", "bicycles")} with you`,
    ],
    [/\b(?:dogs?|with|bring\w*)\b/i, facts.dogs !== undefined && `you bring ${counted(facts.dogs, "dog", "dogs")}`],
    [
      /\b(?:people|of us|party|group|passengers|adults)\b/i,
      facts.people !== undefined && `you are ${counted(facts.people, "person", "people")}`,
    ],
    [/\b(?:where|island|going|to)\b/i, facts.place && `you are going to ${facts.place}`],
    [/\b(?:day|when)\b/i, facts.day && `you travel on ${facts.day}`],
    [/\b(?:likes?|love|prefer|favou?rite)\b/i, facts.likes.length > 0 && `you like ${listed(facts.likes)}`],
    [/\b(?:order|first|then|after|next|last)\b/i, facts.order.length > 0 && `the order is ${listed(facts.order)}`],
    [/\b(?:remember|note)\b/i, facts.notes.length > 0 && `I was to remember: ${facts.notes.join("; ")}`],
  ];
  for (const [what, value] of facts.mine)
    all.push([new RegExp(`\\b${what.replace(/[^\p{L} ]/gu, "")}\\b`, "i"), `your ${what} is ${value}`]);
  return all.filter((each): each is [RegExp, string] => Boolean(each[1]));
}

/** The things a recalling question may name, so that the engine can say that it was not told. */
const askable: [RegExp, string][] = [
  [/\bname\b|\bwho am i\b/i, "your name"],
  [/\b(?:boat|sailing|ferry|crossing|time|leave)\b/i, "which sailing you are on"],
  [/\b(?:bicycles?|bikes?)\b/i, "how many bicycles you have"],
  [/\bdogs?\b/i, "about a dog"],
  [/\b(?:where|island)\b/i, "where you are going"],
  [/\bday\b/i, "the day of your journey"],
];

function recalled({ facts, question, choices }: Scene): string {
  const mine = /\b(?:my|our)\s+([\p{L} ]+?)\s*\?/iu.exec(question.text)?.[1]?.toLowerCase();
  const exact = mine === undefined ? undefined : facts.mine.get(mine);
  if (exact !== undefined) return `Your ${mine} is ${exact}.`;
  const told = tellings(facts);
  const asked = told.filter(([about]) =>
    about.test(question.text.replace(/\bremember\b(?=.*\b(?:my|which|what|how)\b)/i, "")),
  );
  const missing = askable.filter(
    ([about]) =>
      about.test(question.text) &&
      !asked.some(([known]) => known.source === about.source || overlaps(known, about, question.text)),
  );
  const generic =
    /\b(?:tell|told|say|said|remember|know|recall)\b/i.test(question.text) &&
    !/\b(?:name|boat|sailing|bicycles?|bikes?|dogs?|day|island|where)\b/i.test(question.text);
  const facts_ = generic ? told : asked;
  if (facts_.length === 0 && missing.length === 0 && isEmpty(facts))
    return choices.one([
      "You have not told me anything about that yet.",
      "I don't know: nothing about it was said in this conversation.",
    ]);
  const parts: string[] = [];
  if (facts_.length > 0) parts.push(`${capital(listed(facts_.map(([, each]) => each)))}.`);
  if (missing.length > 0 && !generic) parts.push(`You have not told me ${listed(missing.map(([, what]) => what))}.`);
  return parts.length > 0 ? parts.join(" ") : "You have not told me that.";
}

function overlaps(known: RegExp, about: RegExp, text: string): boolean {
  const word = about.exec(text)?.[0];
  return word !== undefined && known.test(word);
}

function noted(scene: Scene): string {
  const { facts, visitor, choices } = scene;
  const before = new Set(tellings(factsIn(visitor.slice(0, -1))).map(([, told]) => told));
  const fresh = tellings(facts)
    .map(([, told]) => told)
    .filter((told) => !before.has(told));
  if (fresh.length === 0) return choices.one(["Noted.", "Good to know.", "I'll keep that in mind."]);
  const start = choices.one(["Noted:", "Good:", "I have it:"]);
  const hint = scene.brief ? "" : hintFor(facts);
  return `${start} ${listed(fresh)}.${hint && ` ${hint}`}`;
}

/** Something useful to say about a journey as told. */
function hintFor(facts: Facts): string {
  const on = facts.sailing === undefined ? undefined : sailingAt(facts.sailing);
  if (!on)
    return facts.sailing ? `There is no sailing at ${facts.sailing} in my timetable, so please check the time.` : "";
  if (facts.bicycles) return fits(on.sailing, on.place, facts.bicycles);
  return `The ${facts.sailing} goes to ${on.place} and takes ${routes[on.place].lasts}.`;
}

function fits(sailing: Sailing, place: Place, bicycles: number): string {
  const room = `The ${sailing.time} to ${place} has ${counted(sailing.bicycles, "bicycle place", "bicycle places")}${sailing.ramp ? " and a ramp" : ""}`;
  const over = bicycles - sailing.bicycles;
  return over > 0
    ? `${room}, which is ${spelt(over)} too few for ${counted(bicycles, "bicycle", "bicycles")}.`
    : `${room}, so ${counted(bicycles, "bicycle", "bicycles")} will fit.`;
}

function sailingsFor({ question, facts }: Scene, place: Place): Sailing[] {
  const day = question.day ?? facts.day;
  const hour = (time: string) => Number(time.split(":")[0]);
  return routes[place].sailings.filter(({ time, sunday }) => {
    if (day === "Sunday" && !sunday) return false;
    if (question.part === "morning") return hour(time) < 12;
    if (question.part === "afternoon") return hour(time) >= 12 && hour(time) < 17;
    return question.part !== "evening" || hour(time) >= 17;
  });
}

function timetable(scene: Scene): Block[] {
  const { question, facts } = scene;
  const at = question.time === undefined ? undefined : sailingAt(question.time);
  if (question.time !== undefined) {
    if (!at) return [text(`No boat leaves at ${question.time} in my timetable.`)];
    const runs = question.day !== "Sunday" || at.sailing.sunday;
    return [
      text(
        `The ${question.time} goes to ${at.place} and ${runs ? `runs${question.day ? ` on ${question.day}` : " every day it is listed"}` : "does not run on Sunday"}; it takes ${routes[at.place].lasts}.`,
      ),
    ];
  }
  const place = question.place ?? facts.place;
  const named = place ? [place] : [...places];
  const day = question.day ?? facts.day;
  const when = day
    ? `on ${day}${question.part ? ` ${question.part}` : ""}`
    : question.part
      ? `in the ${question.part}`
      : "";
  const rows = named.flatMap((to) =>
    sailingsFor(scene, to).map((each) => [
      each.time,
      ...(place ? [] : [to]),
      ...(question.bicycles ? [counted(each.bicycles, "bicycle place", "bicycle places")] : []),
      ...(each.ramp && (question.bicycles || !scene.brief) ? ["with a ramp"] : []),
    ]),
  );
  if (rows.length === 0) return [text(`There is no boat ${place ? `to ${place} ` : ""}${when || "then"}.`)];
  const lead = `From Mill Quay${place ? ` to ${place}` : ""}${when ? ` ${when}` : ""}, ${counted(rows.length, "boat leaves", "boats leave")}:`;
  return [
    {
      kind: "rows",
      lead,
      head: ["Leaves", ...(place ? [] : ["To"]), ...(question.bicycles ? ["Bicycles"] : []), "Note"].slice(
        0,
        Math.max(...rows.map((row) => row.length)),
      ),
      rows,
    },
  ];
}

function crossing({ question, facts }: Scene): string {
  const place = question.place ?? facts.place ?? (facts.sailing ? sailingAt(facts.sailing)?.place : undefined);
  if (place) return `The crossing to ${place} takes ${routes[place].lasts}, on the ${routes[place].boat}.`;
  return `${listed(places.map((each) => `${each} takes ${routes[each].lasts}`))}.`;
}

function bicycles(scene: Scene): Block[] {
  const { question, facts } = scene;
  const time = question.time ?? (question.place || question.day || question.part ? undefined : facts.sailing);
  const at = time === undefined ? undefined : sailingAt(time);
  const count = question.count ?? facts.bicycles ?? 1;
  if (at) {
    const price = scene.brief ? "" : ` ${count === 1 ? "It costs" : "They cost"} ${euros(2 * count)} each way.`;
    return [text(fits(at.sailing, at.place, count) + price)];
  }
  if (question.place || question.day || question.part)
    return timetable({ ...scene, question: { ...question, bicycles: true, time: undefined } });
  return [text(ruled(scene, "bicycles"))];
}

function fares({ question, facts, brief }: Scene): string {
  if (/\b(?:bicycles?|bikes?)\b/i.test(question.text)) {
    const count = question.count ?? facts.bicycles ?? 1;
    return `${capital(counted(count, "bicycle costs", "bicycles cost"))} ${euros(2 * count)} each way.`;
  }
  const people = question.count ?? facts.people ?? 1;
  const place = question.place ?? facts.place ?? (facts.sailing ? sailingAt(facts.sailing)?.place : undefined);
  const rest = brief ? "" : ` ${rules.fares.rule}`;
  if (!place)
    return `A single costs ${listed(places.map((each) => `${euros(routes[each].single)} to ${each}`))}.${rest}`;
  const discount = people >= 10 ? 0.85 : 1;
  const total = routes[place].single * people * discount;
  const who = people === 1 ? "A single" : `Singles for ${people}`;
  return `${who} to ${place} ${people === 1 ? "costs" : "cost"} ${euros(total)}${people >= 10 ? ", with the group's 15 per cent off" : ""}.${rest}`;
}

function ruled({ question, facts, brief, choices }: Scene, topic: Rule): string {
  const { rule, more } = rules[topic];
  const place = question.place ?? facts.place;
  const extra = topic === "access" && place ? routes[place].landing : brief ? "" : choices.one(more);
  return extra && extra !== rule ? `${rule} ${extra}` : rule;
}

function whyOf({ question }: Scene): string {
  const topic = question.topic === "timetable" ? "bicycles" : question.topic;
  return topic in rules ? rules[topic as Rule].why : "I was not told the reason, so I would only be guessing.";
}

function moreOn({ question, choices }: Scene): string {
  if (question.topic in rules) return rules[question.topic as Rule].more.join(" ");
  if (question.place) return `${routes[question.place].landing} The crossing takes ${routes[question.place].lasts}.`;
  return choices.one(["There is nothing more that I know about it.", "That was all that I can say with certainty."]);
}

function unknown({ choices, manner, prompt, question }: Scene): string {
  const told = sentenceOn(question.text, prompt);
  if (told) return told;
  const who = manner.name ?? "a simulated model";
  return choices.one([
    `I don't know that: I am ${who}, and nothing that I was sent holds the answer. A passage that does would help.`,
    `That is beyond what I was given. With a document that covers it I could answer.`,
    `I have nothing to go on for this. Tell me more, or give me a source.`,
  ]);
}

/** The sentence of a prompt that shares the most words with a question, if it shares enough. */
function sentenceOn(asked: string, prompt: string): string | undefined {
  const words = new Set(
    asked
      .toLowerCase()
      .match(/\p{L}{4,}/gu)
      ?.filter((word) => !/^(?:what|when|where|which|does|have|with|there|your|about|this|that|from)$/.test(word)),
  );
  const told = sentencesOf(prompt).filter(
    (each) => !/^(?:you|answer|do not|don't|never|always|if|keep|end|say|otherwise)\b/i.test(each),
  );
  const shared = (sentence: string) =>
    new Set(
      sentence
        .toLowerCase()
        .match(/\p{L}{4,}/gu)
        ?.filter((word) => words.has(word)),
    ).size;
  const best = told.sort((a, b) => shared(b) - shared(a))[0];
  return best !== undefined && shared(best) >= Math.min(2, words.size) && words.size > 0 ? best : undefined;
}

/** Topics that belong to any conversation, whatever its subject. */
const always = new Set(["recall", "beginning", "greeting", "thanks", "self", "statement"]);
const ferry = /\b(?:ferr(?:y|ies)|boats?|crossings?|sailings?|passengers?|timetables?|saltmarsh|quay)\b/i;

function isOffSubject({ manner, prompt, question }: Scene): boolean {
  if (manner.subject === undefined || always.has(question.topic)) return false;
  if (ferry.test(manner.subject)) {
    if (question.topic === "long")
      return !ferry.test(question.text) && !places.some((each) => question.text.includes(each));
    if (question.topic === "unknown") return sentenceOn(question.text, prompt) === undefined;
    return question.topic === "sum" || question.topic === "echo";
  }
  const words = manner.subject.toLowerCase().match(/\p{L}{4,}/gu) ?? [];
  return !words.some((word) => question.text.toLowerCase().includes(word.replace(/s$/, "")));
}

function declined({ manner, choices }: Scene): string {
  if (manner.decline) return manner.decline;
  const about = (manner.subject ?? "this").trim();
  return choices.one([`I can only help with ${about}.`, `That is outside of what I am here for, which is ${about}.`]);
}

function thoughtsOn({ question, facts, visitor, manner }: Scene): string {
  const told = tellings(facts).map(([, each]) => each);
  const parts = [`The last message is about: ${question.topic}.`];
  if (asks(question.text) && told.length > 0) parts.push(`Known from before: ${listed(told)}.`);
  if (visitor.length > 1) parts.push(`It is message ${visitor.length} of the visitor.`);
  const limits = [
    manner.characters && `${manner.characters} characters`,
    manner.words && `${manner.words} words`,
    manner.sentences && `${manner.sentences} sentences`,
  ].filter(Boolean);
  if (limits.length > 0) parts.push(`Keep within ${limits.join(" and ")}.`);
  return parts.join(" ");
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
