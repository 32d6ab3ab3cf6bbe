import { readExpectation, writeExpectation } from "./expectations/expectations";
import { Unreadable } from "./fault";
import { Phrase } from "./phrase";
import type { Saying } from "./script";

/** Words with which a line may begin; a line that is indented is an expectation, or more of the line above. */
export const keywords = ["check", "turns", "passes", "given", "after", "pin", "visitor", "app", "whole"] as const;

const indent = "    ";

/**
 * What a line says. More lines of a text, and of an expectation, begin with `|`; they come with it.
 * @param more the lines that go on with it, without their `|`
 * @throws {Unreadable}
 */
export function readLine(text: string, more: readonly string[]): Saying {
  const written = text.trim();
  if (written.startsWith("#")) return { kind: "comment", text: written.slice(1).trim() };
  if (/^\s/.test(text)) return { kind: "expect", expectation: readExpectation([written, ...more].join("\n").trim()) };
  const phrase = new Phrase(written);
  const keyword = phrase.takesOne(keywords);
  const rest = () => [phrase.rest(), ...more].join("\n");
  switch (keyword) {
    case "check":
    case "turns":
      return { kind: keyword, name: nameOf(keyword, phrase.rest()) };
    case "passes":
      return { kind: "passes", least: leastOf(phrase) };
    case "given":
      return { kind: "given", ...givenOf(rest()) };
    case "after":
      return { kind: "after", ...afterOf(phrase) };
    case "pin": {
      const turn = phrase.takes("turn") ? phrase.number() : undefined;
      if (turn === undefined || turn < 1 || !Number.isInteger(turn) || phrase.left !== "")
        throw new Unreadable("which turn is pinned is missing", "Write for example: pin  turn 1.");
      return { kind: "pin", turn };
    }
    case "visitor":
    case "app": {
      const said = rest();
      if (said.trim() === "")
        throw new Unreadable(`what the ${keyword} says is empty`, "Write it behind, on the same line.");
      return { kind: keyword, text: said };
    }
    case "whole":
      if (phrase.left !== "")
        throw new Unreadable(`"${phrase.left}" is too much`, "What is expected stands below, indented.");
      return { kind: "whole" };
    default:
      throw new Unreadable(
        `"${written.split(/\s/)[0]?.slice(0, 40)}" begins no line`,
        `Begin it with ${keywords.slice(0, -1).join(", ")} or ${keywords.at(-1)}; what is expected is indented.`,
      );
  }
}

/** A line as it is read. */
export function writeLine(says: Saying): string {
  switch (says.kind) {
    case "comment":
      return says.text === "" ? "#" : `# ${says.text}`;
    case "check":
    case "turns":
      return `${says.kind}  ${says.name}`;
    case "passes":
      return says.least === null ? "passes in every trial" : `passes in ${says.least.held} of ${says.least.of} trials`;
    case "given":
      return `given  ${says.name} is ${withMore(says.value)}`;
    case "after": {
      const { turns, from } = says;
      const some = turns === null ? "all" : String(turns);
      const where = from.kind === "filed" ? from.name : `conversation ${from.id}`;
      return `after  ${some} ${turns === 1 ? "turn" : "turns"} from ${where}`;
    }
    case "pin":
      return `pin  turn ${says.turn}`;
    case "visitor":
    case "app":
      return `${says.kind}  ${withMore(says.text)}`;
    case "whole":
      return "whole";
    case "expect":
      return `${indent}${withMore(writeExpectation(says.expectation))}`;
  }
}

function withMore(text: string): string {
  return text.replaceAll("\n", `\n${indent}| `).replace(/[ \t]+$/gm, "");
}

const longestName = 100;

function nameOf(keyword: string, name: string): string {
  if (name === "")
    throw new Unreadable(
      `the ${keyword === "check" ? "check" : "turns"} have no name`,
      `Write one behind: ${keyword}  remembers the boat.`,
    );
  if (name.length > longestName)
    throw new Unreadable(`the name has ${name.length} characters`, `It may have ${longestName}.`);
  return name.replace(/\s+/g, " ");
}

/** Trials that a rule may speak of. */
const mostOf = 1_000;

function leastOf(phrase: Phrase): { held: number; of: number } | null {
  const every = phrase.takes("in every trial");
  const held = !every && phrase.takes("in") ? phrase.number() : undefined;
  const of = held !== undefined && phrase.takes("of") ? phrase.number() : undefined;
  if (of !== undefined) phrase.takesOne(["trials", "trial"]);
  if (phrase.left !== "" || (!every && (held === undefined || of === undefined)))
    throw new Unreadable(
      "in how many trials it passes can't be read",
      "Write: passes in every trial, or passes in 4 of 5 trials.",
    );
  if (every || held === undefined || of === undefined) return null;
  if (!Number.isInteger(held) || !Number.isInteger(of) || held < 1 || held > of || of > mostOf)
    throw new Unreadable(
      `it can't pass in ${held} of ${of} trials`,
      `Write two whole numbers, the first from 1 up to the second, which is ${mostOf} at most.`,
    );
  return { held, of };
}

function givenOf(text: string): { name: string; value: string } {
  const written = /^(\w+)\s+is\s+([\s\S]+)$/i.exec(text);
  const [, name = "", value = ""] = written ?? [];
  if (!written)
    throw new Unreadable("what is given can't be read", "Write: given  today is 2025-06-01, or given  name is Mira.");
  if (name === "today" && !/^\d{4}-\d{2}-\d{2}$/.test(value))
    throw new Unreadable(`${value} is no date`, "Write it as year, month and day: 2025-06-01.");
  if (name === "now" && !/^\d{4}-\d{2}-\d{2} \d{2}:\d{2}$/.test(value))
    throw new Unreadable(`${value} is no moment`, "Write it as 2025-06-01 09:40.");
  if ((name === "now" || name === "today") && !isOnCalendar(value))
    throw new Unreadable(`there is no ${value}`, "Write a day of the calendar.");
  if (name === "weekday" || name === "time")
    throw new Unreadable(`${name} is told by the clock`, "Write: given  now is 2025-06-01 09:40.");
  if (!/^[a-z][a-zA-Z0-9_]*$/.test(name))
    throw new Unreadable(
      `${name} is no name of a variable`,
      "Variables begin with a small letter, and have letters, figures and _.",
    );
  return { name, value };
}

function isOnCalendar(written: string): boolean {
  const moment = new Date(`${written.replace(" ", "T")}${written.includes(" ") ? ":00" : "T00:00:00"}Z`);
  return !Number.isNaN(moment.getTime()) && moment.toISOString().startsWith(written.slice(0, 10));
}

function afterOf(phrase: Phrase): Omit<Extract<Saying, { kind: "after" }>, "kind"> {
  const turns = phrase.takes("all") ? null : phrase.number();
  const isRead = turns !== undefined && phrase.takesOne(["turns from", "turn from"]) !== undefined;
  const isStored = isRead && phrase.takes("conversation");
  const from = phrase.rest();
  if (!isRead || from === "" || turns === 0 || (turns !== null && !Number.isInteger(turns)))
    throw new Unreadable(
      "which turns come before can't be read",
      "Write: after  8 turns from small-talk, or after  all turns from conversation cnv_….",
    );
  if (isStored && !/^[\w-]{1,100}$/.test(from))
    throw new Unreadable(`${from} is no conversation`, "Write its id, as History shows it in the address.");
  return {
    turns,
    from: isStored ? { kind: "conversation", id: from } : { kind: "filed", name: from.replace(/\s+/g, " ") },
  };
}
