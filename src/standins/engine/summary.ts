import { sentencesOf } from "./words";

/** One sentence of a record: who said it, what is left of it, and what is worth keeping in that. */
interface Unit {
  at: number;
  who: string;
  words: string[];
  facts: Set<string>;
}

const speaker = /^\s*(?:[-*]\s*)?(?:\[[^\]]*\]\s*)?\**([\p{L}][\p{L} .'’-]{0,24}?)\**\s*:\s+/u;
const roles =
  /^(?:visitor|user|customer|client|guest|passenger|app|assistant|model|bot|agent|desk|support|system|you|me)$/i;
const days = "Monday|Tuesday|Wednesday|Thursday|Friday|Saturday|Sunday";
const months = "January|February|March|April|May|June|July|August|September|October|November|December";

/** What begins with a capital and is no name. */
const noName = new RegExp(`^(?:I|I'm|I’m|OK|The|My|Our|We|You|It|And|But|${days}|${months})$`);

/** What is a fact in a text, by its class: of some classes a later one puts an earlier one right. */
const classes: [name: string, pattern: RegExp][] = [
  ["time", /\b\d{1,2}[:.]\d{2}\b|\b\d{1,2} ?(?:am|pm)\b|\b(?:noon|midnight)\b/gi],
  [
    "day",
    new RegExp(
      String.raw`\b(?:${days})\b|\b\d{1,2}(?:st|nd|rd|th)?(?: of)? (?:${months})\b|\b(?:${months})(?: \d{1,2})?\b|\b(?:today|tomorrow)\b|\b\d{4}-\d{2}-\d{2}\b`,
      "g",
    ),
  ],
  ["money", /[€$£]\s?\d[\d.,]*\d|[€$£]\s?\d|\b\d[\d.,]* (?:euros?|cents)\b/gi],
  [
    "number",
    /\b[A-Z]{1,4}-?\d[\w-]*\b|(?<![\d:.,€$£])\b\d[\d.,]*(?:%| per cent)?(?![:.]\d)\b|\b(?:two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|fifteen|twenty|thirty|forty|fifty|hundred|half|double)\b/gi,
  ],
  ["name", /(?<![.!?:“"]\s|^)\b\p{Lu}[\p{L}’'-]+(?: \p{Lu}[\p{L}’'-]+)*/gu],
  ["quote", /[“"][^”"]{2,60}[”"]/g],
  [
    "decision",
    /\b(?:decid\w+|agre\w+|book\w*|cancel\w*|mov(?:e|ed)|chang\w+|approv\w+|reject\w+|refund\w*|promis\w+|confirm\w+|order\w*|chose|choose|settl\w+|allerg\w+|vegetarian|deadline|deliver\w*|pick(?:ed)? up|lost|broken)\b/gi,
  ],
];

const openings =
  /^(?:(?:well|so|ok(?:ay)?|yes|no|hi|hello|hey|thanks?(?: you)?|great|perfect|sure|of course|by the way|also|and|but|oh|right|alright|good(?! day)|fine|noted|actually|sorry|please note(?: that)?|just)[,.!:]?\s+|(?:i|we) (?:think|guess|believe|wanted to say|should say|would say|mean)(?: that)? |(?:could|can|would|will) you (?:please )?(?:tell|note|remember|book|say|put down)?(?: me)?(?: that)? ?|please |remember(?: that)? |don't forget(?: that)? |it is |there (?:is|are) |i would like to |i'd like to |we would like to )+/i;
const fillers =
  /\b(?:really|very|quite|just|actually|basically|simply|perhaps|maybe|please|of course|as well|too|then|now|also|already|still|a bit|kind of|sort of|by the way|you know|if possible|in fact)\b,?\s?/gi;
const thin =
  /^(?:the|a|an|of|will|would|shall|should|is|are|was|were|be|been|have|has|had|do|does|to|that|which|who|it|its|there|this|i|we|you|he|she|they|my|our|your|for|so|can|could)$/i;
/** Sentences before a correction among which the one is that it puts right. */
const correctedWithin = 3;
const corrects = /^(?:no|sorry|actually|rather|correction|i mean|wait|on second thoughts?|instead|make (?:it|that))\b/i;

/** Words from which on a summary is in whole sentences. */
const roomForSentences = 60;

/**
 * A summary of a record or a text in at most so many words: what holds names, times, numbers and decisions
 * is kept, in order, what was put right later is left out, and words that say little go first.
 */
export function summaryOf(record: string, words: number): string {
  const units = unitsOf(record);
  const thinned = units.map((unit) => ({
    ...unit,
    words: unit.words.filter((word, at) => at === 0 || !thin.test(word)),
  }));
  const tight = thinned.map((unit) => ({ ...unit, words: aroundFacts(unit) }));
  // whole sentences where there is room for some, else the fullest wording that keeps about as much as the tightest would
  const wordings = words >= roomForSentences ? [units] : [units, thinned, tight];
  const options = wordings.map((each) => chosen(each, words));
  const most = Math.max(...options.map(covered));
  const best = options.find((option) => covered(option) >= most * 0.97) ?? units;
  return writtenOut(best.length > 0 ? best : units.slice(0, 1), words);
}

/** The words of a unit that stand by its facts. */
function aroundFacts({ words, facts }: Unit): string[] {
  const wanted = new Set([...facts].flatMap((fact) => fact.replace(/^\w+:/, "").split(" ")));
  const places = words.flatMap((word, at) =>
    wanted.has(word.toLowerCase().replace(/^[“"(]|[.,;:)”"]+$/g, "")) ? [at] : [],
  );
  return words.filter((_, at) => places.some((place) => at >= place - 2 && at <= place + 1));
}

/** How much of what is worth keeping a text has: the facts of a record, by their writing. */
export function factsOf(text: string): Set<string> {
  return new Set(unitsOf(text).flatMap(({ facts }) => [...facts].map((fact) => fact.replace(/^\w+:/, ""))));
}

function unitsOf(record: string): Unit[] {
  const units: Unit[] = [];
  const known = namesIn(record);
  let who = "";
  for (const line of record.split("\n")) {
    const said = speaker.exec(line);
    if (said) who = roles.test(said[1] ?? "") ? "" : (said[1] ?? "");
    for (const sentence of sentencesOf(said ? line.slice(said[0].length) : line)) {
      if (/\?$/.test(sentence) && !/\b(?:i'm|i am|we're|we are|my|our)\b/i.test(sentence)) continue;
      const text = tidied(sentence);
      const facts = factsIn(sentence, known);
      if (corrects.test(sentence)) supersede(units, facts);
      if (text !== "" && facts.size > 0) units.push({ at: units.length, who, words: text.split(/\s+/), facts });
    }
  }
  return units;
}

/** Names that stand in the middle of a sentence somewhere, or speak: at its beginning they are names as well. */
function namesIn(record: string): Set<string> {
  const names = classes.find(([name]) => name === "name")?.[1] as RegExp;
  const spoken = record.split("\n").flatMap((line) => speaker.exec(line)?.[1] ?? []);
  return new Set(
    [...sentencesOf(record).flatMap((each) => each.match(names) ?? []), ...spoken].filter((each) => !roles.test(each)),
  );
}

function factsIn(sentence: string, known: ReadonlySet<string>): Set<string> {
  const facts = new Set<string>();
  for (const [name, pattern] of classes)
    for (const [found] of sentence.matchAll(pattern)) {
      if (name === "name" && noName.test(found)) continue;
      facts.add(`${name}:${found.toLowerCase().replace(/[.,]$/, "")}`);
    }
  const first = /^\p{Lu}[\p{L}’'-]+/u.exec(sentence)?.[0];
  if (first && known.has(first)) facts.add(`name:${first.toLowerCase()}`);
  return facts;
}

/** Takes the facts that a correction puts right out of what was said last of their class. */
function supersede(units: Unit[], facts: ReadonlySet<string>): void {
  for (const [name] of classes.slice(0, 3)) {
    if (![...facts].some((fact) => fact.startsWith(`${name}:`))) continue;
    const last = units.findLastIndex((unit) => [...unit.facts].some((fact) => fact.startsWith(`${name}:`)));
    // what is put right was said just before
    if (last < units.length - correctedWithin) continue;
    const unit = units[last];
    if (!unit) continue;
    const wrong = [...unit.facts].filter((fact) => fact.startsWith(`${name}:`));
    for (const fact of wrong) {
      unit.facts.delete(fact);
    }
    const said = wrong.map((fact) => fact.slice(name.length + 1));
    unit.words = wordsBefore(unit.words, said);
    const left = unit.words.join(" ").toLowerCase();
    for (const fact of unit.facts) if (!left.includes(fact.replace(/^\w+:/, ""))) unit.facts.delete(fact);
    if ([...unit.facts].every((fact) => fact.startsWith("decision:"))) units.splice(last, 1);
  }
}

/** The words of a sentence up to the clause that says one of these: what is left is a sentence, or nothing. */
function wordsBefore(words: readonly string[], said: readonly string[]): string[] {
  const clauses = words.join(" ").split(/(?<=[,;:])\s+|\s+(?=(?:and|but|or|so)\s)/);
  const wrong = clauses.findIndex((clause) => said.some((fact) => clause.toLowerCase().includes(fact)));
  const kept = clauses.slice(0, wrong < 0 ? clauses.length : wrong).join(" ");
  return kept
    .replace(/[,;:]$/, "")
    .split(/\s+/)
    .filter(Boolean);
}

/** A sentence without what says nothing. */
function tidied(sentence: string): string {
  return sentence
    .replace(openings, "")
    .replace(fillers, "")
    .replace(/\s+/g, " ")
    .replace(/[.!?;,:]+$/, "")
    .trim();
}

/** The units that say most within so many words, each fact counted once. */
function chosen(units: readonly Unit[], words: number): Unit[] {
  const kept: Unit[] = [];
  const known = new Set<string>();
  let left = words;
  const rest = [...units];
  const worth = (unit: Unit) => {
    let fresh = 0;
    for (const fact of unit.facts) if (!known.has(fact)) fresh += fact.startsWith("decision:") ? 0.5 : 1;
    return fresh / (unit.words.length + 1);
  };
  for (;;) {
    let best = -1;
    for (const [at, unit] of rest.entries()) {
      if (unit.words.length === 0 || costOf(unit) > left || worth(unit) === 0) continue;
      if (best < 0 || worth(unit) > worth(rest[best] as Unit)) best = at;
    }
    const unit = rest[best];
    if (!unit) break;
    kept.push(unit);
    for (const fact of unit.facts) known.add(fact);
    left -= costOf(unit);
    rest.splice(best, 1);
  }
  return kept.sort((a, b) => a.at - b.at);
}

/** Words that a unit takes, with who said it. */
function costOf({ words, who }: Unit): number {
  return words.length + (who === "" ? 0 : 1);
}

function covered(units: readonly Unit[]): number {
  return new Set(units.flatMap(({ facts }) => [...facts].filter((fact) => !fact.startsWith("decision:")))).size;
}

function writtenOut(units: readonly Unit[], words: number): string {
  let who = "";
  const sentences = units.map((unit) => {
    const text = unit.words.join(" ");
    const names = unit.who !== "" && unit.who !== who && !text.includes(unit.who);
    who = unit.who;
    return names ? `${unit.who}: ${text}` : text.charAt(0).toUpperCase() + text.slice(1);
  });
  const text = sentences.map((each) => `${each}.`).join(" ");
  const all = text.split(/\s+/);
  return all.length <= words
    ? text
    : `${all
        .slice(0, words)
        .join(" ")
        .replace(/[,;.]$/, "")}.`;
}
