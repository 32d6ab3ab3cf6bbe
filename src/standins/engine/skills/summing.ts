import { limitsIn } from "../limits";
import type { Heard, Scene, Skill } from "../scene";
import { factsOf, summaryOf } from "../summary";

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
    const { words } = limitsIn(message);
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
    if (factsOf(record).size === 0) return record.split(/\s+/).slice(0, most).join(" ");
    return summaryOf(record, most);
  },
};

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
