import { asks, type Facts, factsIn, isEmpty, toldIn } from "../facts";
import { recalls, stated } from "../question";
import type { Exchange, Scene, Skill } from "../scene";
import { capital, counted, listed, sentencesOf } from "../words";
import { routes, sailingAt } from "../world";
import { fits } from "./ferry";
import { sentenceOn } from "./given";

interface Wanted {
  what: "recall" | "note";
  asked: string;
}

/** Recalls what the visitor told, of themselves and their journey, and notes what they tell. */
export const recall: Skill<Wanted> = {
  name: "what was told before",
  isAlways: true,
  about: /$^/,
  read(message, before, heard) {
    if (recalls(message) || isOwn(message, heard.before)) return { what: "recall", asked: message };
    if (stated(message)) return { what: "note", asked: message };
    return before &&
      /^(?:and|but) (?:my|our|the|when|where|what|how many)\b/i.test(message.trim()) &&
      !/\b(?:is there|costs?|fares?|prices?|pay)\b/i.test(message) &&
      before.what === "recall"
      ? { what: "recall", asked: message }
      : undefined;
  },
  say: ({ what, asked }, scene) => (what === "note" ? noted(scene) : recalled(asked, scene)),
};

/** Whether a question is about something that was told as one's own. */
function isOwn(message: string, before: readonly Exchange[]): boolean {
  const mine = mineIn(message);
  return mine !== undefined && factsIn(before.map(({ visitor }) => visitor)).mine.has(mine);
}

function mineIn(message: string): string | undefined {
  return /\b(?:my|our)\s+([\p{L} ]+?)(?:\s+(?:again|called|now))?\s*[?.!]*$/iu
    .exec(message.trim().replace(/['’]s name\b/i, ""))?.[1]
    ?.toLowerCase();
}

/** What was told of the journey and of oneself, topic by topic. */
export function tellings(facts: Facts): [about: RegExp, told: string][] {
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

function recalled(asked: string, scene: Scene): string {
  const { facts, choices } = scene;
  const mine = mineIn(asked);
  const exact = mine === undefined ? undefined : facts.mine.get(mine);
  if (exact !== undefined)
    return choices.one([`Your ${mine} is ${exact}.`, `You told me that your ${mine} is ${exact}.`]);
  const told = tellings(facts);
  const named = told.filter(([about]) => about.test(asked.replace(/\bremember\b(?=.*\b(?:my|which|what|how)\b)/i, "")));
  const missing = askable.filter(
    ([about]) =>
      about.test(asked) && !named.some(([known]) => known.source === about.source || overlaps(known, about, asked)),
  );
  const generic =
    /\b(?:tell|told|say|said|remember|know|recall)\b/i.test(asked) &&
    !/\b(?:name|boat|sailing|bicycles?|bikes?|dogs?|day|island|where)\b/i.test(asked);
  const shown = generic ? told : named;
  const said = shown.length > 0 ? undefined : saidBefore(asked, scene);
  if (said) return said;
  if (shown.length === 0 && missing.length === 0 && isEmpty(facts))
    return choices.one([
      "You have not told me anything about that yet.",
      "I don't know: nothing about it was said in this conversation.",
    ]);
  const parts: string[] = [];
  if (shown.length > 0) parts.push(`${capital(listed(shown.map(([, each]) => each)))}.`);
  if (missing.length > 0 && !generic) parts.push(`You have not told me ${listed(missing.map(([, what]) => what))}.`);
  return parts.length > 0 ? parts.join(" ") : "You have not told me that.";
}

function overlaps(known: RegExp, about: RegExp, text: string): boolean {
  const word = about.exec(text)?.[0];
  return word !== undefined && known.test(word);
}

/** What was said word by word that bears on a question, where it was read as nothing else. */
function saidBefore(asked: string, { talk, prompt }: Scene): string | undefined {
  const told = talk.slice(0, -1).flatMap(({ visitor }) => sentencesOf(visitor).filter((each) => !asks(each)));
  const said = sentenceOn(asked, told);
  if (said) return `You told me: “${said}”`;
  return sentenceOn(
    asked,
    toldIn(prompt).map(({ original }) => original),
  );
}

function noted(scene: Scene): string {
  const { facts, talk, choices } = scene;
  const before = new Set(tellings(factsIn(talk.slice(0, -1).map(({ visitor }) => visitor))).map(([, told]) => told));
  const fresh = tellings(facts)
    .map(([, told]) => told)
    .filter((told) => !before.has(told));
  if (fresh.length === 0) return choices.one(["Noted.", "Good to know.", "I'll keep that in mind."]);
  const start = choices.one(["Noted:", "Good:", "I have it:"]);
  const hint = scene.isBrief ? "" : hintFor(facts);
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
