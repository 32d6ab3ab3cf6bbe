import type { Expectation, Expected } from "./expectations/expectations";

/** Characters that a script may have. */
export const longestScript = 500_000;

/** Where turns before a check come from: turns that are filed in a script, or a stored conversation. */
export type TurnsFrom = { kind: "filed"; name: string } | { kind: "conversation"; id: string };

/** What a line of a script says. Docs: docs/checks.md. */
export type Saying =
  | { kind: "comment"; text: string }
  | { kind: "check"; name: string }
  | { kind: "turns"; name: string }
  /** In how many trials of how many a check has to hold; null for every one. */
  | { kind: "passes"; least: { held: number; of: number } | null }
  /** The value of a variable, or the clock: `now`, `today`. */
  | { kind: "given"; name: string; value: string }
  /** Null for all turns. */
  | { kind: "after"; turns: number | null; from: TurnsFrom }
  | { kind: "pin"; turn: number }
  | { kind: "visitor"; text: string }
  | { kind: "app"; text: string }
  /** The expectations below are on all replies together. */
  | { kind: "whole" }
  | { kind: "expect"; expectation: Expectation };

/** A line of a script, and its number, from 1. */
export interface Line {
  line: number;
  says: Saying;
}

/** A turn that is filed: what was said, and what was answered. */
export interface FiledTurn {
  visitor: string;
  app: string;
}

/** What happens in a check, in order. */
export type CheckStep =
  /** The visitor says something, and the reply is held against what is expected. */
  | { kind: "ask"; line: number; message: string; expected: Expected[] }
  /** A turn that is there already. */
  | { kind: "turn"; line: number; turn: FiledTurn }
  | { kind: "after"; line: number; turns: number | null; from: TurnsFrom }
  | { kind: "pin"; line: number; turn: number };

/** A scripted conversation with what is expected of its replies. */
export interface Check {
  name: string;
  line: number;
  /** The last line of it. */
  to: number;
  least: { held: number; of: number } | null;
  /** Values of variables of the prompt. */
  given: Record<string, string>;
  /** The clock, as it is written: `2025-06-01`, or `2025-06-01 09:40`; undefined for the time at which it runs. */
  now: string | undefined;
  steps: CheckStep[];
  /** What is expected of all replies together. */
  whole: Expected[];
  /** All it says, as it is written. */
  lines: Line[];
}

/** A conversation to which checks refer. */
export interface FiledTurns {
  name: string;
  line: number;
  turns: FiledTurn[];
}

/** All that a script says. */
export interface Script {
  lines: Line[];
  checks: Check[];
  filed: FiledTurns[];
}

/** All that is expected in a check, in the order of its lines. */
export function expectedIn({ steps, whole }: Check): Expected[] {
  return [...steps.flatMap((step) => (step.kind === "ask" ? step.expected : [])), ...whole];
}

const scriptName = /^[\p{L}\p{N}][\p{L}\p{N} _-]{0,79}$/u;

/** Whether a script may be called that: letters, figures, spaces, `_` and `-`, so that a file can be called so too. */
export function isScriptName(name: string): boolean {
  return scriptName.test(name);
}
