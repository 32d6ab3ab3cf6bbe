/**
 * What a rule looks for, as a machine that reads a text once, character by character (K. Thompson, "Regular Expression
 * Search Algorithm", 1968). An *expression* says what to look for; it is compiled to *nodes*, of which several can be
 * stood on at once. Time for a text grows with its length times the nodes, whatever the expression is.
 */
export type Expression =
  /** One character. */
  | { kind: "one"; takes: (code: number) => boolean }
  /** One after the other. */
  | { kind: "row"; of: Expression[] }
  /** One of them. */
  | { kind: "either"; of: Expression[] }
  /** It, so often; `most` may be Infinity. */
  | { kind: "times"; of: Expression; least: number; most: number }
  /** No character, but a place between two; undefined stands for the edge of the text. */
  | { kind: "border"; isMet: (before: number | undefined, after: number | undefined) => boolean };

export type Node =
  | { kind: "one"; takes: (code: number) => boolean; next: number }
  | { kind: "fork"; next: number[] }
  | { kind: "border"; isMet: (before: number | undefined, after: number | undefined) => boolean; next: number }
  | { kind: "found" };

export interface Automaton {
  nodes: readonly Node[];
  start: number;
  /** Characters that what is found can have at most; Infinity where there is no limit. */
  longest: number;
}

/** Nodes that the automaton of a pattern may have: each can be stood on at each character. */
export const mostNodes = 1_500;

/** An expression that grows into more nodes than there may be. */
export class TooLarge extends Error {}

/** The automaton that finds an expression. @throws {TooLarge} where it has more nodes than it may */
export function compile(expression: Expression, most = mostNodes): Automaton {
  const nodes: Node[] = [{ kind: "found" }];
  const add = (node: Node) => {
    if (nodes.length >= most) throw new TooLarge();
    return nodes.push(node) - 1;
  };
  /** Adds an expression before a node; gives the node that it begins with. */
  const before = (next: number, of: Expression): number => {
    switch (of.kind) {
      case "one":
        return add({ kind: "one", takes: of.takes, next });
      case "border":
        return add({ kind: "border", isMet: of.isMet, next });
      case "row":
        return of.of.reduceRight(before, next);
      case "either":
        return add({ kind: "fork", next: of.of.map((each) => before(next, each)) });
      case "times": {
        let end = next;
        if (of.most === Infinity) {
          const fork: Node = { kind: "fork", next: [next] };
          end = add(fork);
          fork.next.push(before(end, of.of));
        } else
          for (let at = of.least; at < of.most; at += 1) end = add({ kind: "fork", next: [before(end, of.of), next] });
        for (let at = 0; at < of.least; at += 1) end = before(end, of.of);
        return end;
      }
    }
  };
  const start = before(0, expression);
  return { nodes, start, longest: longestOf(expression) };
}

/** Characters that an expression takes at most. */
function longestOf(of: Expression): number {
  switch (of.kind) {
    case "one":
      return 1;
    case "border":
      return 0;
    case "row":
      return of.of.reduce((sum, each) => sum + longestOf(each), 0);
    case "either":
      return Math.max(0, ...of.of.map(longestOf));
    case "times": {
      const each = longestOf(of.of);
      return each === 0 ? 0 : each * of.most;
    }
  }
}

/** Whether a character is part of a word: a letter, a digit or a low line. */
export function isOfWord(code: number | undefined): boolean {
  if (code === undefined) return false;
  if (code < 0x80)
    return (
      (code >= 0x61 && code <= 0x7a) ||
      (code >= 0x41 && code <= 0x5a) ||
      (code >= 0x30 && code <= 0x39) ||
      code === 0x5f
    );
  return wordSign.test(String.fromCodePoint(code));
}

const wordSign = /[\p{L}\p{N}_]/u;

/** A place where a word begins or ends. */
export const wordBorder: Expression = {
  kind: "border",
  isMet: (before, after) => isOfWord(before) !== isOfWord(after),
};
