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
