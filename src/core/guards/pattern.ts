import { type AST, RegExpParser } from "@eslint-community/regexpp";
import { type Expression, isOfWord } from "./automaton";

/** Characters that a pattern may have. */
export const longestPattern = 1_000;

/** Why a pattern can't be looked for. */
export class BadPattern extends Error {}

/**
 * A regular expression (ECMA-262, with the flag u) as what an automaton looks for. `^` and `$` stand for the edges of a
 * line. It may look back or ahead by one character, and no further: text that still arrives has no ahead.
 * @throws {BadPattern} where it is none, or holds what is not taken
 */
export function readPattern(source: string, ignoresCase: boolean): Expression {
  if (source.length > longestPattern) throw new BadPattern(`it has more than ${longestPattern} characters`);
  let pattern: AST.Pattern;
  try {
    pattern = new RegExpParser({ ecmaVersion: 2022 }).parsePattern(source, 0, source.length, { unicode: true });
  } catch (error) {
    throw new BadPattern((error as Error).message.replace(/^.*\/u?: /, "").toLowerCase());
  }
  return either(pattern.alternatives, ignoresCase ? "iu" : "u");
}

function either(alternatives: readonly AST.Alternative[], flags: string): Expression {
  const [only, ...more] = alternatives.map(
    ({ elements }): Expression => ({ kind: "row", of: elements.map((element) => expressionOf(element, flags)) }),
  );
  return only && more.length === 0 ? only : { kind: "either", of: only ? [only, ...more] : [] };
}

function expressionOf(element: AST.Element, flags: string): Expression {
  switch (element.type) {
    case "Character":
    case "CharacterSet":
    case "CharacterClass":
      return { kind: "one", takes: takesOf(element.raw, flags) };
    case "Group":
    case "CapturingGroup":
      return either(element.alternatives, flags);
    case "Quantifier":
      return { kind: "times", of: expressionOf(element.element, flags), least: element.min, most: element.max };
    case "Assertion":
      return borderOf(element, flags);
    case "Backreference":
      throw new BadPattern(`${element.raw} refers back to what was found, which is not taken`);
    default:
      throw new BadPattern(`${element.raw} is not taken`);
  }
}

function borderOf(assertion: AST.Assertion, flags: string): Expression {
  switch (assertion.kind) {
    case "start":
      return { kind: "border", isMet: (before) => before === undefined || isLineEnd(before) };
    case "end":
      return { kind: "border", isMet: (_before, after) => after === undefined || isLineEnd(after) };
    case "word": {
      const { negate } = assertion;
      return { kind: "border", isMet: (before, after) => (isOfWord(before) !== isOfWord(after)) !== negate };
    }
    default: {
      const { negate, raw, kind } = assertion;
      const [one, ...more] = assertion.alternatives.map(({ elements }) => elements);
      const [sign, ...further] = one ?? [];
      if (more.length > 0 || further.length > 0 || !sign || !isOne(sign))
        throw new BadPattern(`${raw} looks ahead or back by more than one character, which is not taken`);
      const takes = takesOf(sign.raw, flags);
      const isThere = (code: number | undefined) => (code !== undefined && takes(code)) !== negate;
      return { kind: "border", isMet: (before, after) => isThere(kind === "lookbehind" ? before : after) };
    }
  }
}

function isOne({ type }: AST.Element): boolean {
  return type === "Character" || type === "CharacterSet" || type === "CharacterClass";
}

function isLineEnd(code: number): boolean {
  return code === 0x0a || code === 0x0d || code === 0x2028 || code === 0x2029;
}

/** Whether a character is one of a set, as JavaScript says; asked once of each. */
function takesOf(raw: string, flags: string): (code: number) => boolean {
  // a line's end is no end of the text, which is this one character
  const one = new RegExp(`^(?:${raw})$`, flags);
  const known = new Map<number, boolean>();
  return (code) => {
    let takes = known.get(code);
    if (takes === undefined) {
      takes = one.test(String.fromCodePoint(code));
      if (known.size < 2_000) known.set(code, takes);
    }
    return takes;
  };
}
