import { asks, dayIn } from "./facts";
import { numberFrom } from "./words";
import { type Day, type Place, places, type Rule } from "./world";

/** What a message asks of the ferry line, as far as the engine can tell. */
export type Topic = Rule | "timetable" | "crossing" | "unknown";

/** A message, read. */
export interface Question {
  topic: Topic;
  text: string;
  place?: Place;
  day?: Day;
  time?: string;
  part?: "morning" | "afternoon" | "evening";
  count?: number;
  /** Whether it asks for bicycle places beside its topic. */
  bicycles: boolean;
}

/** Whether a message only makes sense after the one before: "and on Sunday?". */
export function followsOn(text: string): boolean {
  return /^(?:and|or|what about|how about|but|then)\b/i.test(text.trim()) && text.trim().split(/\s+/).length <= 9;
}

const own = "(?:i|we|me|us|my|our)";
const recall = [
  /\bwhat (?:do|did) (?:i|we) (?:like|love|prefer|enjoy)\b/i,
  new RegExp(String.raw`\b(?:did|have|had) ${own} (?:say|said|tell|told|mention)`, "i"),
  /\b(?:do you|can you|you still) (?:remember|recall|know)\b.*\b(?:i|we|me|us|my|our)\b/i,
  /\b(?:remind me|know about (?:me|us|my|our)|who am i|what am i called)\b/i,
  /\b(?:am i|are we|was i|were we) (?:on|in|taking|booked|sailing|travell?ing|going|leaving|bringing|with)\b/i,
  /\b(?:what|which|when|where|who)(?:'s|’s| is| are| was)? (?:my|our)\b/i,
  /\b(?:what|which) (?:time|boat|sailing|ferry|crossing|day|island)\b.*\b(?:am i|are we|my|our|do i|do we|did i|did we|is mine)\b/i,
  /\b(?:in )?(?:what|which) order\b/i,
  /\bwhen (?:do|am|are|will) (?:i|we) (?:leave|leaving|sail|sailing|go|going|travel|travelling|depart)\b/i,
  /\bhow many (?:bicycles|bikes|dogs|people|of us|adults|passengers)\b(?!.*\bcan\b).*\b(?:i|we|my|our)\b/i,
];

/** Whether a message asks for what was told before. */
export function recalls(text: string): boolean {
  return recall.some((pattern) => pattern.test(text.trim()));
}

const topics: [Topic, RegExp][] = [
  ["dogs", /\b(?:dogs?|pets?|cats?)\b/i],
  ["cancelling", /\b(?:cancel\w*|refund\w*|money back|miss(?:ed)? (?:the|my|our) (?:boat|ferry))\b/i],
  ["access", /\b(?:wheelchairs?|steps?|step-free|ramps?|prams?|accessib\w+|disab\w+)\b/i],
  ["parking", /\b(?:park|parking|car park)\b/i],
  ["food", /\b(?:food|eat|drink|kiosk|tea|coffee|soup|breakfast|lunch)\b/i],
  ["luggage", /\b(?:luggage|bags?|suitcases?|rucksacks?|kg|parcels?)\b/i],
  ["fares", /\b(?:fares?|prices?|costs?|tickets?|how much|pay|euros?|returns?|singles?|cheap\w*)\b/i],
  ["bicycles", /\b(?:bicycles?|bikes?|cycles?)\b|\bwill (?:they|it|all of them) fit\b/i],
  ["crossing", /\b(?:how long|crossing (?:time|take)|duration|which boat is it|last the crossing)\b/i],
  [
    "timetable",
    /\b(?:timetable|boats?|ferr(?:y|ies)|sailings?|sail|leave|leaves|depart\w*|when|go to|get to|first|last|next|earliest|latest|morning|evening|afternoon|runs?|running|times?)\b/i,
  ],
];

/** Reads a message by itself. */
export function questionIn(text: string): Question {
  const time = /\b(\d{1,2})[:.](\d{2})\b/.exec(text);
  const part = /\b(morning|afternoon|evening)\b/i.exec(text)?.[1]?.toLowerCase() as Question["part"];
  const count =
    /\b(\d+|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|fifteen|twenty)\b(?!\s*[:.]\d)/i.exec(
      text.replace(/\b\d{1,2}[:.]\d{2}\b/g, ""),
    )?.[1];
  return {
    topic: topicOf(text),
    text,
    place: places.find((each) => text.toLowerCase().includes(each.toLowerCase())),
    day: dayIn(text),
    time: time ? `${Number(time[1])}:${time[2]}` : undefined,
    part,
    count: count === undefined ? undefined : numberFrom(count),
    bicycles: /\b(?:bicycles?|bikes?)\b/i.test(text),
  };
}

/** A follow-up with what it leaves out taken from the question before. */
export function completed(question: Question, before: Question): Question {
  const keeps = question.topic === "unknown" || question.topic === "timetable";
  const isNamed = /\b(?:boats?|ferr|sailings?|timetable|leave|go)\b/i.test(question.text);
  return {
    topic: keeps && !isNamed ? before.topic : question.topic,
    text: question.text,
    place: question.place ?? before.place,
    day: question.day ?? before.day,
    time: question.time ?? before.time,
    part: question.part ?? (question.day ? before.part : undefined),
    count: question.count ?? before.count,
    bicycles: question.bicycles || before.bicycles,
  };
}

const statement =
  /^(?:no|sorry|actually|rather)\b|\b(?:i'm|i’m|i am|we're|we’re|we are|i have|we have|my|our|i like|i love|i prefer|remember|call me)\b/i;

/** Whether a message tells something of its visitor rather than asking. */
export function stated(text: string): boolean {
  return !asks(text.trim()) && statement.test(text.trim());
}

function topicOf(text: string): Topic {
  return topics.find(([, pattern]) => pattern.test(text.trim()))?.[0] ?? "unknown";
}
