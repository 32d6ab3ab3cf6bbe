import { LRUCache } from "lru-cache";
import { type Fault, Unreadable } from "./fault";
import { readLine, writeLine } from "./line";
import { type Check, type CheckStep, type FiledTurns, type Line, longestScript, type Script } from "./script";

/** Lines that a script may have. */
const mostLines = 20_000;
/** Faults that are told of one script. */
const mostFaults = 100;

/** A script as it is read, and all that can't be. */
export interface ReadScript {
  script: Script;
  faults: Fault[];
}

/**
 * Reads a script of checks; the grammar stands in docs/checks.md. What can't be read is named by its line, and the
 * rest is read all the same.
 */
export function parseScript(text: string): ReadScript {
  if (text.length > longestScript)
    return only({
      line: 1,
      why: `the script has ${text.length} characters`,
      advice: `It may have ${longestScript}: part it in several.`,
    });
  const rows = text.replace(/^\uFEFF/, "").split(/\r\n|\r|\n/);
  if (rows.length > mostLines)
    return only({
      line: 1,
      why: `the script has ${rows.length} lines`,
      advice: `It may have ${mostLines}: part it in several.`,
    });
  const faults: Fault[] = [];
  const lines = linesOf(rows, faults);
  const script = grouped(lines, faults);
  faults.sort((a, b) => a.line - b.line);
  return { script, faults: faults.slice(0, mostFaults) };
}

function only(fault: Fault): ReadScript {
  return { script: { lines: [], checks: [], filed: [] }, faults: [fault] };
}

/** A script as it is written: what is read from this says the same. */
export function printScript({ lines }: Pick<Script, "lines">): string {
  let text = "";
  for (const [at, { says }] of lines.entries()) {
    // what begins stands apart, with the comments above it
    const begins =
      says.kind === "check" || says.kind === "turns" || (says.kind === "comment" && beginsBelow(lines, at));
    if (begins && at > 0 && lines[at - 1]?.says.kind !== "comment") text += "\n";
    text += `${writeLine(says)}\n`;
  }
  return text;
}

function beginsBelow(lines: readonly Line[], at: number): boolean {
  const next = lines.slice(at + 1).find(({ says }) => says.kind !== "comment");
  return next?.says.kind === "check" || next?.says.kind === "turns";
}

/** What each line says; lines that go on with one above are read with it. */
function linesOf(rows: readonly string[], faults: Fault[]): Line[] {
  const lines: Line[] = [];
  for (let at = 0; at < rows.length; at++) {
    const row = (rows[at] as string).trimEnd();
    if (row === "") continue;
    const more: string[] = [];
    const line = at + 1;
    while (/^\s+\|/.test(rows[at + 1] ?? "")) {
      at += 1;
      more.push((rows[at] as string).trimEnd().replace(/^\s+\| ?/, ""));
    }
    try {
      if (/^\s*\|/.test(row))
        throw new Unreadable(
          "nothing stands above that this goes on with",
          "Begin with visitor, app or an expectation.",
        );
      const says = readOnce(row, more);
      const takesMore =
        says.kind === "visitor" || says.kind === "app" || says.kind === "expect" || says.kind === "given";
      if (more.length > 0 && !takesMore)
        throw new Unreadable(
          "a text goes on here that has none",
          "Only what is said, given or expected may take several lines.",
        );
      lines.push({ line, says });
    } catch (error) {
      if (!(error instanceof Unreadable)) throw error;
      faults.push({ line, why: error.why, advice: error.advice });
    }
  }
  return lines;
}

/** Lines that were read before: a script is read again at every letter that is typed, and facts take their time. */
const known = new LRUCache<string, Line["says"]>({
  max: 10_000,
  maxSize: 4_000_000,
  sizeCalculation: (_, key) => key.length,
});

function readOnce(row: string, more: readonly string[]): Line["says"] {
  const key = [row, ...more].join("\n");
  const before = known.get(key);
  if (before) return before;
  const says = readLine(row, more);
  known.set(key, says);
  return says;
}

/** Puts lines together to checks and filed turns, and tells which stand where they may not. */
function grouped(lines: Line[], faults: Fault[]): Script {
  const checks: Check[] = [];
  const filed: FiledTurns[] = [];
  let check: Check | undefined;
  let turns: FiledTurns | undefined;
  /** Where what is expected belongs. */
  let expects: Check["whole"] | undefined;
  /** What was said in filed turns, and is not answered yet. */
  let asked: { line: number; text: string } | undefined;
  const fault = (line: number, why: string, advice: string) => faults.push({ line, why, advice });
  const close = (before: number) => {
    if (asked) fault(asked.line, "this turn has no answer", "Write one below: app  ….");
    const from = check?.line ?? 0;
    // where a line of it can't be read, that is what is told
    if (
      check &&
      !check.steps.some(({ kind }) => kind === "ask") &&
      !faults.some(({ line }) => line >= from && line < before)
    )
      fault(check.line, `nobody asks anything in "${check.name}"`, "Write what a visitor says: visitor  ….");
    asked = undefined;
    expects = undefined;
  };
  for (const { line, says } of lines) {
    if (says.kind === "check" || says.kind === "turns") {
      close(line);
      check =
        says.kind === "check"
          ? { name: says.name, line, to: line, least: null, given: {}, now: undefined, steps: [], whole: [], lines: [] }
          : undefined;
      turns = says.kind === "turns" ? { name: says.name, line, turns: [] } : undefined;
      if (check && checks.some(({ name }) => name === says.name))
        fault(line, `there is a check "${says.name}" already`, "Give it another name.");
      if (turns && filed.some(({ name }) => name === says.name))
        fault(line, `there are turns "${says.name}" already`, "Give them another name.");
      if (check) checks.push(check);
      if (turns) filed.push(turns);
      check?.lines.push({ line, says });
      continue;
    }
    if (says.kind === "comment") continue;
    if (!check && !turns) {
      fault(line, "this stands in no check", "Begin one above: check  its name.");
      continue;
    }
    if (check) {
      check.to = line;
      check.lines.push({ line, says });
    }
    const last: CheckStep | undefined = check?.steps.at(-1);
    switch (says.kind) {
      case "visitor":
        if (turns) {
          if (asked) fault(asked.line, "this turn has no answer", "Write one below: app  ….");
          asked = { line, text: says.text };
        } else if (check) {
          const step = { kind: "ask" as const, line, message: says.text, expected: [] };
          check.steps.push(step);
          expects = step.expected;
        }
        break;
      case "app":
        if (turns) {
          if (asked) turns.turns.push({ visitor: asked.text, app: says.text });
          else fault(line, "nobody asked what this answers", "Write what a visitor says above: visitor  ….");
          asked = undefined;
        } else if (check) {
          if (last?.kind !== "ask" || last.expected.length > 0)
            fault(
              line,
              "an answer that is given stands right below what a visitor says",
              "Put what is expected below what is asked next.",
            );
          else
            check.steps[check.steps.length - 1] = {
              kind: "turn",
              line: last.line,
              turn: { visitor: last.message, app: says.text },
            };
          expects = undefined;
        }
        break;
      case "expect":
        if (!check) fault(line, "turns that are filed expect nothing", "Put it into a check.");
        else if (!expects)
          fault(
            line,
            "nothing stands above that could be held against this",
            "Put it below what a visitor says, or below whole.",
          );
        else expects.push({ line, expectation: says.expectation });
        break;
      default:
        if (!check)
          fault(line, `turns that are filed have visitor and app alone, and no ${says.kind}`, "Put it into a check.");
        else placed(check, line, says, fault);
        if (says.kind === "whole") expects = check?.whole;
        else if (says.kind !== "passes" && says.kind !== "given") expects = undefined;
    }
  }
  close(Number.POSITIVE_INFINITY);
  return { lines, checks, filed };
}

/** Puts a line of the head of a check, or between what is said, where it belongs. */
function placed(
  check: Check,
  line: number,
  says: Exclude<Line["says"], { kind: "visitor" | "app" | "expect" | "check" | "turns" | "comment" }>,
  fault: (line: number, why: string, advice: string) => void,
): void {
  const isHead = check.steps.length === 0 && check.whole.length === 0;
  switch (says.kind) {
    case "passes":
      if (!isHead || check.lines.filter((each) => each.says.kind === "passes").length > 1)
        fault(
          line,
          "in how many trials it passes is said once, at the head of a check",
          "Put it right below its name.",
        );
      check.least = says.least;
      break;
    case "given":
      if (!isHead) fault(line, "what is given is said at the head of a check", "Put it above what a visitor says.");
      else if (says.name === "now" || says.name === "today") {
        if (check.now !== undefined) fault(line, "the clock is set already", "Say it once.");
        check.now = says.value;
      } else if (Object.hasOwn(check.given, says.name)) fault(line, `${says.name} is given already`, "Say it once.");
      else check.given[says.name] = says.value;
      break;
    case "after":
      check.steps.push({ kind: "after", line, turns: says.turns, from: says.from });
      break;
    case "pin":
      check.steps.push({ kind: "pin", line, turn: says.turn });
      break;
    case "whole":
      if (check.lines.filter((each) => each.says.kind === "whole").length > 1)
        fault(line, "what is expected of the whole is said once", "Put all of it below one whole.");
      if (!check.steps.some(({ kind }) => kind === "ask"))
        fault(line, "there is nothing yet that this could be the whole of", "Put it at the end of the check.");
  }
}

/** A check as a script of its own, with the turns that it refers to: two that print the same do the same. */
export function printCheck({ lines, steps }: Check, filed: readonly FiledTurns[]): string {
  const names = new Set(
    steps.flatMap((step) => (step.kind === "after" && step.from.kind === "filed" ? [step.from.name] : [])),
  );
  const used = filed
    .filter(({ name }) => names.has(name))
    .map(({ name, turns }) => ({
      lines: [
        { line: 0, says: { kind: "turns" as const, name } },
        ...turns.flatMap(({ visitor, app }) => [
          { line: 0, says: { kind: "visitor" as const, text: visitor } },
          { line: 0, says: { kind: "app" as const, text: app } },
        ]),
      ],
    }));
  return [...used, { lines }].map(printScript).join("\n");
}
