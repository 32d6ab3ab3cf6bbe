import { counted, numberFrom } from "./words";
import { days } from "./world";

const time = String.raw`(\d{1,2})[:.](\d{2})`;
const between = new RegExp(String.raw`\b(?:between|from)\s+${time}\s+(?:and|to|until|till)\s+${time}`, "i");
const later = new RegExp(String.raw`\b(\d+|[a-z]+)\s+(minutes?|hours?)\s+(after|before|later than)\s+${time}`, "i");
const ahead =
  /\b(?:in\s+(\d+|[a-z]+)\s+(days?|weeks?)|(\d+|[a-z]+)\s+(days?|weeks?)\s+(?:from now|from today|ahead)|(tomorrow|the day after tomorrow))\b/i;

/** What a question about a duration or a date comes to: "how long from 9:40 to 17:30?"; undefined where it is none. */
export function reckoned(question: string, prompt: string): string | undefined {
  const span = between.exec(question);
  if (span && /\b(?:how (?:long|many)|time)\b/i.test(question)) {
    const [from, to] = [minutesAt(span[1], span[2]), minutesAt(span[3], span[4])];
    return `From ${clock(from)} to ${clock(to)} it is ${spoken((to - from + 1440) % 1440)}.`;
  }
  const shift = later.exec(question);
  if (shift) {
    const count = numberFrom(shift[1] ?? "");
    if (count === undefined) return undefined;
    const minutes = count * (/hour/i.test(shift[2] ?? "") ? 60 : 1) * (/before/i.test(shift[3] ?? "") ? -1 : 1);
    return `That is ${clock((minutesAt(shift[4], shift[5]) + minutes + 1440) % 1440)}.`;
  }
  return dayAhead(question, prompt);
}

function dayAhead(question: string, prompt: string): string | undefined {
  const match = ahead.exec(question);
  if (!match || !/\b(?:what|which)\b.*\b(?:day|date)\b/i.test(question)) return undefined;
  const today = /\b(\d{4}-\d{2}-\d{2})\b/.exec(prompt)?.[1];
  if (today === undefined) return "I was not told what day it is today.";
  const word = match[5]?.toLowerCase();
  const count = word === undefined ? numberFrom(match[1] ?? match[3] ?? "") : word === "tomorrow" ? 1 : 2;
  if (count === undefined) return undefined;
  const date = new Date(`${today}T12:00:00Z`);
  date.setUTCDate(date.getUTCDate() + count * (/week/i.test(match[2] ?? match[4] ?? "") ? 7 : 1));
  return `It will be ${days[(date.getUTCDay() + 6) % 7]}, ${date.toISOString().slice(0, 10)}.`;
}

const months = "January February March April May June July August September October November December".split(" ");
const day = String.raw`(?:(\d{4})-(\d{2})-(\d{2})|(\d{1,2})(?:st|nd|rd|th)?(?: of)? (${months.join("|")})(?:,? (\d{4}))?|(${months.join("|")}) (\d{1,2})(?:st|nd|rd|th)?(?:,? (\d{4}))?)`;

/** What a question about dates that it names itself comes to: days between two, the day of the week of one, days added to one. */
export function dated(question: string): string | undefined {
  const found = [...question.matchAll(new RegExp(day, "gi"))].map((match) => dateOf(match, question));
  const [first, second] = found;
  if (!first) return undefined;
  if (second && /\b(?:how (?:many|long)|days? between|until|from)\b/i.test(question)) {
    const days = Math.abs(Math.round((second.getTime() - first.getTime()) / dayMs));
    const weeks = Math.floor(days / 7);
    const inWeeks =
      weeks > 0
        ? `, which is ${counted(weeks, "week", "weeks")}${days % 7 > 0 ? ` and ${counted(days % 7, "day", "days")}` : ""}`
        : "";
    return `From ${saidOf(first)} to ${saidOf(second)} it is ${days} days${inWeeks}.`;
  }
  const added =
    /\b(\d+|[a-z]+) (days?|weeks?) (after|before|from|later|earlier)|(?:add|plus) (\d+) (days?|weeks?)/i.exec(question);
  const count = added && numberFrom(added[1] ?? added[4] ?? "");
  if (added && count !== undefined && count !== null) {
    const days =
      count * (/week/i.test(added[2] ?? added[5] ?? "") ? 7 : 1) * (/before|earlier/i.test(added[3] ?? "") ? -1 : 1);
    return `That is ${saidOf(new Date(first.getTime() + days * dayMs))}.`;
  }
  return /\b(?:what|which) (?:day|weekday)\b/i.test(question)
    ? `${saidOf(first)} is a ${weekdayOf(first)}.`
    : undefined;
}

const dayMs = 86_400_000;

function dateOf(match: RegExpMatchArray, question: string): Date {
  const [, isoYear, isoMonth, isoDay, day1, month1, year1, month2, day2, year2] = match;
  const year = Number(isoYear ?? year1 ?? year2 ?? /\b(?:19|20)\d{2}\b/.exec(question)?.[0] ?? 2026);
  const month = isoMonth
    ? Number(isoMonth) - 1
    : months.findIndex((each) => each.toLowerCase() === (month1 ?? month2 ?? "").toLowerCase());
  return new Date(Date.UTC(year, month, Number(isoDay ?? day1 ?? day2)));
}

function saidOf(date: Date): string {
  return `${date.getUTCDate()} ${months[date.getUTCMonth()]} ${date.getUTCFullYear()}`;
}

function weekdayOf(date: Date): string {
  return days[(date.getUTCDay() + 6) % 7] ?? "";
}

function minutesAt(hours = "0", minutes = "0"): number {
  return Number(hours) * 60 + Number(minutes);
}

function clock(minutes: number): string {
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
}

function spoken(minutes: number): string {
  const [hours, rest] = [Math.floor(minutes / 60), minutes % 60];
  const parts = [hours > 0 && counted(hours, "hour", "hours"), rest > 0 && counted(rest, "minute", "minutes")].filter(
    Boolean,
  );
  return parts.join(" and ") || "no time at all";
}
