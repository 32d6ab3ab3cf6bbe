/**
 * The text of a JSONPath read into its steps, by the grammar of RFC 9535
 * (https://www.rfc-editor.org/rfc/rfc9535): the part that profiles speak, which is names, indexes, `*` and filters.
 */

/** One step from a value: to a member, to an element, to all of them, or to those that a filter lets through. */
export type Step = { name: string } | { index: number } | { where: Test } | "all";

/** A filter: whether something stands at a path, how two values compare, or several filters as one. */
export type Test =
  | { kind: "there"; path: Query }
  | { kind: "compare"; operator: Operator; left: Operand; right: Operand }
  | { kind: "all" | "any"; of: Test[] }
  | { kind: "not"; of: Test };

/** A path inside of a filter: from the document or from the element that is looked at. */
export interface Query {
  from: "$" | "@";
  steps: Step[];
}

export type Literal = string | number | boolean | null;
export type Operand = { literal: Literal } | { path: Query };

/** Longer ones first, since each is looked for at its beginning. */
const operators = ["==", "!=", "<=", ">=", "<", ">"] as const;
export type Operator = (typeof operators)[number];

/** Thrown for a path that is not one; the message says where it goes wrong. */
export class PathError extends Error {}

/** Filters inside of filters that are read: more would be no path that anybody wrote. */
const deepestFilter = 30;

/**
 * The steps of a path that begins with `$`, the document, or `@`, the element that a rule goes through.
 * @throws {PathError} naming the place and what was expected there
 */
export function stepsIn(source: string): Step[] {
  return new Scanner(source).whole();
}

/** Goes through the text of a path once, from left to right. */
class Scanner {
  private at = 0;
  private depth = 0;

  constructor(private readonly source: string) {}

  whole(): Step[] {
    if (!/^[$@]/.test(this.source))
      throw new PathError(`"${this.source}" is not a JSONPath: expected "$" at the start`);
    this.at = 1;
    const steps = this.steps();
    if (this.at < this.source.length) this.fail('"." or "["');
    return steps;
  }

  /** All steps from here; blanks before a step belong to it, and those after the last one do not. */
  private steps(): Step[] {
    const steps: Step[] = [];
    for (;;) {
      const before = this.at;
      this.blanks();
      if (this.takes(".")) steps.push(this.takes("*") ? "all" : this.shortName());
      else if (this.takes("[")) steps.push(this.bracketed());
      else {
        this.at = before;
        return steps;
      }
    }
  }

  private shortName(): Step {
    if (this.source[this.at] === ".") this.refuse("no profile needs descendants (..)");
    const [name] =
      this.match(/[\p{L}_\u{80}-\u{D7FF}\u{E000}-\u{10FFFF}][\w\u{80}-\u{D7FF}\u{E000}-\u{10FFFF}]*/uy) ?? [];
    if (name === undefined) this.fail("a name", this.at - 1);
    return { name };
  }

  private bracketed(): Step {
    const open = this.at - 1;
    this.blanks();
    const step = this.selector(open);
    this.blanks();
    if (this.takes("]")) return step;
    const next = this.source[this.at];
    if (next === ",") this.refuse("no profile needs several things in one bracket");
    if (next === ":") this.refuse("no profile needs slices");
    return this.fail('"]"');
  }

  private selector(open: number): Step {
    const sign = this.source[this.at];
    if (sign === '"' || sign === "'") return { name: this.quoted() };
    if (this.takes("*")) return "all";
    if (this.takes("?")) {
      this.blanks();
      return { where: this.anyOf() };
    }
    const [index] = this.match(/(?:0|-?[1-9]\d*)(?![\w.])/y) ?? [];
    if (index !== undefined && Number.isSafeInteger(Number(index))) return { index: Number(index) };
    if (sign === ":") this.refuse("no profile needs slices");
    return this.fail(this.source.indexOf("]", this.at) < 0 ? '"]"' : "an index, a quoted name, * or a filter", open);
  }

  /** Filters joined by `||`, each of which may be several joined by `&&`. */
  private anyOf(): Test {
    this.depth += 1;
    if (this.depth > deepestFilter) this.refuse(`filters are read ${deepestFilter} deep`);
    const tests = this.joinedBy("||", () => this.joinedBy("&&", () => [this.test()], "all"), "any");
    this.depth -= 1;
    return tests[0] as Test;
  }

  private joinedBy(sign: string, part: () => Test[], kind: "all" | "any"): Test[] {
    const tests = part();
    for (;;) {
      const before = this.at;
      this.blanks();
      if (!this.takes(sign)) {
        this.at = before;
        const [only] = tests;
        return tests.length === 1 && only ? [only] : [{ kind, of: tests }];
      }
      this.blanks();
      tests.push(...part());
    }
  }

  private test(): Test {
    if (this.takes("!")) {
      this.blanks();
      const isCompared = this.source[this.at] !== "(" && this.source[this.at] !== "@" && this.source[this.at] !== "$";
      if (isCompared) this.fail("a path or parentheses");
      return { kind: "not", of: this.source[this.at] === "(" ? this.test() : { kind: "there", path: this.query() } };
    }
    if (this.takes("(")) {
      this.blanks();
      const inner = this.anyOf();
      this.blanks();
      if (!this.takes(")")) this.fail('")"');
      return inner;
    }
    const left = this.operand();
    const before = this.at;
    this.blanks();
    const operator = operators.find((each) => this.takes(each));
    if (operator === undefined) {
      if (this.source[this.at] === "=") this.fail("==, !=, <, <=, > or >=");
      this.at = before;
      if ("literal" in left) this.fail("a comparison");
      return { kind: "there", path: left.path };
    }
    this.blanks();
    return { kind: "compare", operator, left: this.single(left), right: this.single(this.operand()) };
  }

  private operand(): Operand {
    const sign = this.source[this.at];
    if (sign === "@" || sign === "$") return { path: this.query() };
    if (sign === '"' || sign === "'") return { literal: this.quoted() };
    const [word] = this.match(/[^\s\])&|=!<>]+/y) ?? [];
    if (word === "true" || word === "false") return { literal: word === "true" };
    if (word === "null") return { literal: null };
    if (word !== undefined && /^-?(?:0|[1-9]\d*)(?:\.\d+)?(?:e[+-]?\d+)?$/i.test(word))
      return { literal: Number(word) };
    if (word !== undefined && /^[a-z][a-z_\d]*\(/.test(word)) this.refuse("no profile needs functions");
    throw new PathError(
      `"${this.source}" is not a JSONPath: ${word ?? "nothing"} is no value to compare with: expected a path, a text, a number, true, false or null`,
    );
  }

  /** @returns the operand, which can't be a path to several values where it is compared */
  private single(operand: Operand): Operand {
    const isMany = "path" in operand && operand.path.steps.some((step) => step === "all" || "where" in step);
    if (isMany) this.refuse("what is compared is one value, and this path can find several");
    return operand;
  }

  private query(): Query {
    const from = this.source[this.at] === "@" ? "@" : "$";
    this.at += 1;
    return { from, steps: this.steps() };
  }

  /** A quoted text, its escapes read. */
  private quoted(): string {
    const quote = this.source[this.at];
    const start = this.at;
    let text = "";
    for (this.at += 1; this.at < this.source.length; this.at++) {
      const sign = this.source[this.at] as string;
      if (sign === quote) {
        this.at += 1;
        if (/\p{Surrogate}/u.test(text)) this.refuse("a quoted name or text holds half a character");
        return text;
      }
      if (sign < " ") this.fail("an escape such as \\n, since no control character stands in quotes");
      text += sign === "\\" ? this.escape(quote) : sign;
    }
    return this.fail('"]"', start);
  }

  private escape(quote: string | undefined): string {
    this.at += 1;
    const sign = this.source[this.at] ?? "";
    if (sign === quote || sign === "\\" || sign === "/") return sign;
    const plain = escapes[sign];
    if (plain !== undefined) return plain;
    const [, code] = /^u([\da-f]{4})/i.exec(this.source.slice(this.at, this.at + 5)) ?? [];
    if (code === undefined) return this.fail("an escape: \\b, \\f, \\n, \\r, \\t, \\/, \\\\, \\uXXXX or the quote");
    this.at += 4;
    return String.fromCharCode(Number.parseInt(code, 16));
  }

  private blanks(): void {
    this.match(/[ \t\n\r]*/y);
  }

  private takes(sign: string): boolean {
    if (!this.source.startsWith(sign, this.at)) return false;
    this.at += sign.length;
    return true;
  }

  private match(pattern: RegExp): RegExpExecArray | null {
    pattern.lastIndex = this.at;
    const match = pattern.exec(this.source);
    if (match) this.at = pattern.lastIndex;
    return match;
  }

  private fail(expected: string, at = this.at): never {
    throw new PathError(`"${this.source}" is not a JSONPath: expected ${expected} at character ${at + 1}`);
  }

  private refuse(why: string): never {
    throw new PathError(`"${this.source}" is no path of a profile: ${why}, at character ${this.at + 1}`);
  }
}

const escapes: Record<string, string> = { b: "\b", f: "\f", n: "\n", r: "\r", t: "\t" };
