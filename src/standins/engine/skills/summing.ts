import { factsIn, toldOfVisitor } from "../facts";
import { limitsIn } from "../limits";
import type { Heard, Scene, Skill } from "../scene";
import { factsOf, summaryOf } from "../summary";
import { capital, sentencesOf } from "../words";
import { tellings } from "./recall";

interface Wanted {
  /** The text to sum up; none for the talk itself. */
  text: string | undefined;
  words: number | undefined;
}

const asking =
  /\b(?:summari[sz]e|sum(?:ming)? up|summary of|(?:write|give|make)\b.{0,20}\bsummary|digest|key points|main points|condense|boil (?:it|this|that) down|recap)\b/i;

/** Sums up a record that is handed in, in a message or a prompt, or the talk itself; keeps names, times, numbers and decisions. */
export const summing: Skill<Wanted> = {
  name: "a summary",
  isAlways: true,
  about: /$^/,
  read(message, before, heard) {
    if (!asking.test(message)) {
      // the task stands in the prompt, and the message is the record
      if (asking.test(heard.prompt) && wordsIn(message) >= 40)
        return { text: message, words: limitsIn(heard.prompt).words };
      const { words } = limitsIn(message);
      return before && words && wordsIn(message) < 12 ? { ...before, words } : undefined;
    }
    const { words } = limitsIn(requestIn(message));
    const text = handedIn(message) ?? recordIn(message, heard);
    // what was answered last is only put shorter
    if (text === undefined && !/\b(?:conversation|talk|chat|discussion|so far|we|our)\b/i.test(message))
      return undefined;
    return { text, words };
  },
  say({ text, words }, scene) {
    const record = text ?? recordOf(scene);
    if (record.trim() === "") return "There is nothing to sum up yet.";
    const most = words ?? Math.max(20, Math.min(120, Math.round(wordsIn(record) / 3)));
    const { about, rest } = visitorIn(record);
    const told = about
      .reduce((all, each) => (wordsIn(all) + wordsIn(each) <= most ? `${all} ${each}` : all), "")
      .trim();
    const left = most - wordsIn(told);
    const more = factsOf(rest).size > 0 && left > 4 ? summaryOf(rest, left) : "";
    return `${told} ${more}`.trim() || record.split(/\s+/).slice(0, most).join(" ");
  },
};

const ofVisitor = /^\s*(?:visitor|user|customer|client|guest|passenger)\s*:\s*/i;
const ofApp = /^\s*(?:app|assistant|model|bot|agent|desk)\s*:\s*/i;

/**
 * What a record tells of a visitor, each in a sentence about them, and what is left of the record: an earlier summary
 * above it is read as well, and what an app only notes is left out.
 */
function visitorIn(record: string): { about: string[]; rest: string } {
  const lines = record.split("\n").map(unmarked);
  const first = lines.findIndex((line) => ofVisitor.test(line));
  if (first < 0) return { about: [], rest: record };
  const above = lines.slice(0, first).filter((line) => !line.trimEnd().endsWith(":"));
  const said = saidIn(lines.slice(first));
  const ofVisitors = said.flatMap(({ label, sentences }) => (ofVisitor.test(label) ? sentences : []));
  // a day that is named is not always that of the journey
  const { day, ...facts } = factsIn([...toldOfVisitor(above.join("\n")), ...ofVisitors]);
  const about = tellings(facts).map(([, told]) => aboutVisitor(told));
  const known = about.join(" ").toLowerCase();
  const isTold = (sentence: string) =>
    [...factsOf(sentence)].every((fact) => known.includes(fact.replace(/^i['’]m /, "")));
  const isFresh = (label: string) => (sentence: string) =>
    ofVisitor.test(label) ? !isTold(sentence) : !/^(?:noted|good|i have it)[:,.]/i.test(sentence);
  const rest = [
    ...above.flatMap(sentencesOf).filter((sentence) => toldOfVisitor(sentence).length === 0),
    ...said.flatMap(({ label, sentences }) => {
      const fresh = sentences.filter(isFresh(label));
      return fresh.length > 0 ? [`${label}${fresh.join(" ")}`] : [];
    }),
  ];
  return { about, rest: rest.join("\n") };
}

/** A line without its marks of Markdown, and without a row of a table, which says little by itself. */
function unmarked(line: string): string {
  const label = (ofVisitor.exec(line) ?? ofApp.exec(line))?.[0] ?? "";
  const said = line.slice(label.length).replace(/^\s*(?:[-*]|#+|\d+\.)\s+(?:\[.\]\s+)?/, "");
  return label + (/^\s*\|/.test(said) ? "" : said.replace(/\*\*|`/g, ""));
}

/** The sentences of each line of a talk, with who says them where that is written. */
function saidIn(lines: readonly string[]): { label: string; sentences: string[] }[] {
  let speaks = "";
  return lines.map((line) => {
    const label = (ofVisitor.exec(line) ?? ofApp.exec(line))?.[0];
    speaks = label ?? speaks;
    return { label: speaks, sentences: sentencesOf(line.slice(label?.length ?? 0)) };
  });
}

/** What is told to a visitor of themselves, as told of them to another. */
function aboutVisitor(told: string): string {
  const said = told
    .replace(/^your /, "the visitor's ")
    .replace(/^you are (?=\d+ pe|\w+ pe)/, "they are ")
    .replace(/^you are /, "the visitor is ")
    .replace(/^you have /, "the visitor has ")
    .replace(/^you (like|travel|bring)\b/, "the visitor $1s")
    .replace(/^I was to remember: /, "the visitor's wish is: ")
    .replace(/ with you$/, " along");
  return `${capital(said)}.`;
}

/** A message without the text that it hands in to be summed up: that asks for nothing. */
export function requestIn(message: string): string {
  const text = asking.test(message) ? handedIn(message) : undefined;
  return text === undefined ? message : message.replace(text, "");
}

/** The text that a message brings along with its request. */
function handedIn(message: string): string | undefined {
  const [head = "", ...lines] = message.split("\n");
  const below = lines.join("\n").trim();
  if (wordsIn(below) >= 12 && asking.test(head)) return below;
  const after = /:\s*([\s\S]{60,})$/.exec(message)?.[1];
  if (after && asking.test(message.slice(0, message.length - after.length))) return after;
  // the request may stand below the text
  const last = message.trimEnd().split("\n").at(-1) ?? "";
  const above = message.trimEnd().slice(0, -last.length).trim();
  return asking.test(last) && wordsIn(above) >= 12 ? above : undefined;
}

/** A text that was handed in before: in an earlier message, or in the prompt. */
function recordIn(message: string, { before, prompt }: Heard): string | undefined {
  if (/\b(?:our|this) (?:conversation|talk|chat|discussion)\b|\bso far\b|\bwhat we\b/i.test(message)) return undefined;
  const long = before.findLast(({ visitor }) => wordsIn(visitor) >= 40)?.visitor;
  if (long) return long;
  return wordsIn(prompt) >= 80 && /\b(?:conversation|record|transcript|text|above)\b/i.test(message)
    ? prompt
    : undefined;
}

/** The talk as a record, without the request for the summary. */
function recordOf({ talk }: Scene): string {
  return talk
    .slice(0, -1)
    .map(({ visitor, app }) => `Visitor: ${visitor.replace(/\n+/g, " ")}\nApp: ${app.replace(/\n+/g, " ")}`)
    .join("\n");
}

function wordsIn(text: string): number {
  return text.split(/\s+/).filter(Boolean).length;
}
