import { numberFrom, sentencesOf } from "./words";
import { type Day, days, type Place, places } from "./world";

/** What a visitor has told in a conversation; what came later puts right what came before. */
export interface Facts {
  name?: string;
  /** The time of the sailing, such as `9:40`. */
  sailing?: string;
  bicycles?: number;
  dogs?: number;
  people?: number;
  place?: Place;
  day?: Day;
  likes: string[];
  /** Things in the order in which they were said to come. */
  order: string[];
  /** Anything of the form "my … is …", by what it is. */
  mine: Map<string, string>;
  /** What was to be remembered word by word. */
  notes: string[];
}

const time = String.raw`(\d{1,2})[:.](\d{2})`;
const count = String.raw`(\d+|a|an|both|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|fifteen|twenty)`;

/** Whether a sentence asks for something. */
export function asks(sentence: string): boolean {
  return (
    /\?\s*$/.test(sentence) ||
    /^(?:and |so |but )?(?:what|which|when|where|who|why|how|is|are|can|could|do|does|did|will|would|may|tell|list|show|give|write|repeat|say|explain|describe|convert|recommend|suggest|make|create|draft|summari[sz]e|sum up|translate|calculate|compute|plan)\b/i.test(
      sentence,
    )
  );
}

/** Reads the visitor's messages of a conversation in order. */
export function factsIn(messages: readonly string[]): Facts {
  const facts: Facts = { likes: [], order: [], mine: new Map(), notes: [] };
  for (const message of messages) for (const sentence of sentencesOf(message)) read(sentence, facts);
  return facts;
}

/** A sentence of a prompt that tells of the visitor, as it stands there and as the visitor would say it. */
interface Told {
  original: string;
  own: string;
}

const instruction =
  /^(?:you(?:r)?|answer|reply|respond|do not|don't|never|always|if|keep|end|begin|start|say|otherwise|speak|use|write|be|only|stay|to anything|greet|close|avoid|call yourself)\b/i;

/** What a prompt tells, its instructions left out: a summary of earlier turns, a note on the visitor. */
export function toldIn(prompt: string): Told[] {
  const sentences = sentencesOf(prompt).map((each) =>
    each.replace(/^[-*]\s+/, "").replace(/^(?:summary|earlier|so far|notes?|context|known|facts)\b[^:]{0,40}:\s*/i, ""),
  );
  const visitor =
    /\b(?:visitor|user|customer|passenger|guest|caller)(?:'s name)?,? (?:is )?(?:called |named )?,?\s*(\p{Lu}\p{L}+)/u.exec(
      prompt,
    )?.[1];
  return sentences
    .filter((each) => !instruction.test(each))
    .map((original) => ({ original, own: asOwn(original, visitor) }));
}

/** What a prompt tells of the visitor, as the visitor would say it. */
export function toldOfVisitor(prompt: string): string[] {
  return toldIn(prompt).flatMap(({ original, own }) => (own === original ? [] : [own]));
}

/** A sentence about the visitor in the first person. */
function asOwn(sentence: string, visitor: string | undefined): string {
  const who = `(?:the |this )?(?:visitor|user|customer|passenger|guest|caller)${visitor ? `|${visitor}` : ""}`;
  return sentence
    .replace(new RegExp(String.raw`\b(?:${who})['’]s\b`, "gi"), "my")
    .replace(new RegExp(String.raw`\b(?:${who}|[Hh]e|[Ss]he|[Tt]hey) (?:is|are) (?:called|named)\b`, "g"), "my name is")
    .replace(new RegExp(String.raw`\b(?:${who}),? (?:is|was)\b`, "gi"), "I am")
    .replace(new RegExp(String.raw`\b(?:${who}|he|she|they) (?:has|have)\b`, "gi"), "I have")
    .replace(
      new RegExp(String.raw`\b(?:${who}|he|she|they) (like|love|prefer|enjoy|travel|bring|take)s?\b`, "gi"),
      "I $1",
    )
    .replace(/\b(?:he|she|they) (?:is|are)\b/gi, "I am")
    .replace(/\b(?:his|her|their)\b/gi, "my");
}

/** Whether anything was told at all. */
export function isEmpty(facts: Facts): boolean {
  const { likes, order, mine, notes, ...plain } = facts;
  return (
    likes.length + order.length + mine.size + notes.length === 0 &&
    Object.values(plain).every((value) => value === undefined)
  );
}

function read(sentence: string, facts: Facts): void {
  const told = !asks(sentence);
  const corrects = /^(?:no|sorry|actually|rather|i mean|correction)\b/i.test(sentence);
  const own =
    /\b(?:i'm|i’m|i am|we're|we’re|we are|i have|we have|i travel|we travel|i've|we've|my|our|with|i bring|i take|booked)\b/i.test(
      sentence,
    );

  const name = /\b(?:[Mm]y name is|[Mm]y name's|[Cc]all me|[Tt]his is|I'm|I’m|I am)\s+([A-Z]\p{L}+)/u.exec(
    sentence,
  )?.[1];
  if (name && !/^(?:The|On|In|Brindle|Tansy|Far)$/.test(name) && !dayIn(name)) facts.name = name;

  const at =
    new RegExp(
      String.raw`\b(?:i'm|i’m|i am|we're|we’re|we are|on|take|taking|catch|booked|book|for|make it)\s+(?:on\s+|for\s+)?(?:the\s+)?${time}`,
      "i",
    ).exec(sentence) ?? (corrects ? new RegExp(time).exec(sentence) : null);
  if (at && (told || /\b(?:i'm|i am|i’m|we are|we're)\b/i.test(sentence))) facts.sailing = `${Number(at[1])}:${at[2]}`;

  if (told || own) {
    const bicycles = new RegExp(String.raw`\b${count}\s+(?:\w+\s+)?(?:bicycles?|bikes?)\b`, "i").exec(sentence)?.[1];
    if (bicycles && !/\bhow many\b/i.test(sentence)) facts.bicycles = numberFrom(bicycles);
    else if (told && /\bmy (?:bicycle|bike)\b/i.test(sentence)) facts.bicycles ??= 1;
    const dogs = new RegExp(String.raw`\b${count}\s+(?:\w+\s+)?dogs?\b`, "i").exec(sentence)?.[1];
    if (dogs) facts.dogs = numberFrom(dogs);
    else if (told && /\bmy dog\b/i.test(sentence)) facts.dogs ??= 1;
    const people = new RegExp(
      String.raw`\b(?:we are|we're|there are|party of|group of)\s+${count}\b|\b${count}\s+(?:people|persons|of us|adults|passengers)\b`,
      "i",
    ).exec(sentence);
    const crowd = people?.[1] ?? people?.[2];
    if (crowd) facts.people = numberFrom(crowd);
  }
  if (told) {
    facts.place = places.find((each) => sentence.toLowerCase().includes(each.toLowerCase())) ?? facts.place;
    facts.day = dayIn(sentence) ?? facts.day;
    const liked = /\b(?:i|we)\s+(?:really\s+)?(?:like|love|prefer|enjoy)\s+([^.,;!?]+)/i.exec(sentence)?.[1];
    if (liked) facts.likes.push(liked.trim());
    const order =
      /\bfirst\s+(.+?),?\s+then\s+(.+?)(?:,?\s+(?:and\s+)?(?:finally|last|after that)\s+(.+?))?[.!]?$/i.exec(sentence);
    if (order) facts.order = order.slice(1).flatMap((each) => each?.trim() ?? []);
    const note = /\bremember(?:\s+that|\s+this)?[:,]?\s+(.+?)[.!]?$/i.exec(sentence)?.[1];
    if (note) facts.notes.push(note);
  }
  for (const [, what = "", value = ""] of sentence.matchAll(
    /\b(?:my|our)\s+([\p{L}][\p{L} ]{1,30}?)\s+(?:is|are|will be)\s+(?:called\s+)?([^.,;!?]+)/giu,
  ))
    if (told && !/^name$/i.test(what)) facts.mine.set(what.toLowerCase(), value.trim());
  if (told) for (const [who, name] of companionsIn(sentence)) facts.mine.set(who, name);
}

const relatives = "dog|cat|brother|sister|mother|father|wife|husband|partner|son|daughter|friend|boss";

/** Those who come along by name: "my brother Jonas", "a dog called Skip". */
function companionsIn(sentence: string): [who: string, name: string][] {
  const pattern = new RegExp(
    String.raw`\b(?:[Mm]y|[Oo]ur|[Aa]|[Oo]ne)\s+(${relatives}),?(?:\s+called)?\s+(\p{Lu}\p{L}+)`,
    "gu",
  );
  return [...sentence.matchAll(pattern)].map(([, who = "", name = ""]) => [who, name]);
}

/** The day of the week that a text names. */
export function dayIn(text: string): Day | undefined {
  return days.find((day) => new RegExp(`\\b${day}s?\\b`, "i").test(text));
}
