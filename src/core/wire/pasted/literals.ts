import { NotARequest } from "./pasted";

/** Levels that literals may be nested. */
const deepest = 100;
const escapes: Record<string, string> = { n: "\n", t: "\t", r: "\r", b: "\b", f: "\f", v: "\v", "0": "\0" };

/**
 * Reads the literals of a program (ECMAScript or Python). A name that was set before has its value, any other stands for
 * something that is filled in, as `$NAME`.
 */
export class Literals {
  private depth = 0;

  constructor(
    private readonly text: string,
    private at: number,
    private readonly set: ReadonlyMap<string, unknown> = new Map(),
  ) {}

  /** The arguments of a call whose parenthesis was opened: in their order, and those that are named. */
  call(): { ordered: unknown[]; named: Record<string, unknown> } {
    const ordered: unknown[] = [];
    const named: Record<string, unknown> = {};
    while (!this.takes(")")) {
      this.blanks();
      const [, name] = this.match(/([A-Za-z_]\w*)\s*=(?!=)/y) ?? [];
      if (name === undefined) ordered.push(this.value());
      else named[name] = this.value();
      if (!this.takes(",")) {
        if (!this.takes(")")) this.fail('")"');
        break;
      }
    }
    return { ordered, named };
  }

  takes(sign: string): boolean {
    this.blanks();
    if (!this.text.startsWith(sign, this.at)) return false;
    this.at += sign.length;
    return true;
  }

  value(): unknown {
    this.depth += 1;
    if (this.depth > deepest) throw new NotARequest("The call is nested too deep to be read.");
    const value = this.sum();
    this.depth -= 1;
    return value;
  }

  /** A value, or several texts joined by `+`. */
  private sum(): unknown {
    let value = this.single();
    for (;;) {
      // two texts side by side are one
      const isBeside = typeof value === "string" && this.match(/\s*(?=[rbu]?f?["'])/iy) !== null;
      if (!isBeside && !this.takes("+")) return value;
      value = `${String(value)}${String(this.single())}`;
    }
  }

  private single(): unknown {
    this.blanks();
    const [, letters = "", quote] = this.match(/([rbuf]{0,2})("""|'''|["'`])/iy) ?? [];
    if (quote !== undefined) return this.string(quote, /f/i.test(letters));
    if (this.takes("{")) return this.object();
    if (this.takes("[")) return this.list("]");
    if (this.takes("(")) return this.list(")");
    const [number] = this.match(/-?(?:0x[\da-f]+|\d+(?:\.\d+)?(?:e[+-]?\d+)?)(?![\w.])/iy) ?? [];
    if (number !== undefined) return Number(number);
    const [call] = this.match(/(?:JSON\s*\.\s*stringify|json\s*\.\s*dumps)\s*\(/y) ?? [];
    if (call !== undefined) return this.stringified();
    const [made] = this.match(/new\s+(?:URLSearchParams|Headers|URL)\s*\(/y) ?? [];
    if (made !== undefined) return this.constructed(made);
    const [name] = this.match(/[\p{L}_$][\w$]*(?:\s*\??\.\s*[\p{L}_$][\w$]*)*!?/uy) ?? [];
    if (name === undefined)
      throw new NotARequest(`The call can't be read at ${JSON.stringify(this.text.slice(this.at, this.at + 20))}.`);
    if (/^true$/i.test(name) || /^false$/i.test(name)) return /^true$/i.test(name);
    if (name === "null" || name === "None") return null;
    if (name === "undefined") return undefined;
    if (this.set.has(name)) return this.set.get(name);
    // what is read by its name from somewhere is known by that name
    const [, key] = this.match(/\s*[[(]\s*["']([\w.-]+)["'][^)\]]*[\])]/y) ?? [];
    if (key !== undefined) return `$${variableOf(key)}`;
    // what a function would give is not known, and stands for something too
    if (this.takes("(")) this.skipTo(")");
    return `$${variableOf(name)}`;
  }

  private stringified(): unknown {
    const value = this.value();
    if (this.takes(",")) this.skipTo(")");
    else this.takes(")");
    return JSON.stringify(value);
  }

  private constructed(made: string): unknown {
    const value = this.value();
    if (this.takes(",")) this.skipTo(")");
    else this.takes(")");
    if (!made.includes("URLSearchParams")) return value;
    return new URLSearchParams(value as Record<string, string>).toString();
  }

  private object(): Record<string, unknown> {
    const entries: [string, unknown][] = [];
    while (!this.takes("}")) {
      this.blanks();
      if (this.takes("...")) this.value();
      else {
        const [quote] = this.match(/["']/y) ?? [];
        const name =
          quote !== undefined
            ? this.string(quote, false)
            : (this.match(/[\p{L}_$][\w$-]*|\d+/uy) ?? this.fail("a name"))[0];
        entries.push([name, this.takes(":") ? this.value() : `$${variableOf(name)}`]);
      }
      if (!this.takes(",")) {
        if (!this.takes("}")) this.fail('"}"');
        break;
      }
    }
    return Object.fromEntries(entries);
  }

  private list(close: "]" | ")"): unknown {
    const list: unknown[] = [];
    let isOne = close === ")";
    while (!this.takes(close)) {
      list.push(this.value());
      if (!this.takes(",")) {
        if (!this.takes(close)) this.fail(`"${close}"`);
        // what stands in parentheses alone is itself
        return isOne && list.length === 1 ? list[0] : list;
      }
      isOne = false;
    }
    return list;
  }

  /** A text whose quote was read. @param isFilled whether names in braces stand for something */
  private string(quote: string, isFilled: boolean): string {
    const opening = quote === "`" ? "${" : isFilled ? "{" : undefined;
    let text = "";
    for (; this.at < this.text.length; this.at++) {
      const sign = this.text[this.at] as string;
      if (this.text.startsWith(quote, this.at)) {
        this.at += quote.length;
        return text;
      }
      if (opening && this.text.startsWith(opening, this.at)) {
        const end = this.text.indexOf("}", this.at);
        if (end < 0) break;
        const name = this.text.slice(this.at + opening.length, end).trim();
        text += this.set.has(name) ? String(this.set.get(name)) : `$${variableOf(name)}`;
        this.at = end;
      } else if (sign === "\\") text += this.escape();
      else text += sign;
    }
    return this.fail(`a ${quote} that closes the text`);
  }

  private escape(): string {
    this.at += 1;
    const sign = this.text[this.at] ?? "";
    const code = /^(?:u\{([\da-f]{1,6})\}|u([\da-f]{4})|x([\da-f]{2}))/i.exec(this.text.slice(this.at, this.at + 9));
    if (code) {
      this.at += code[0].length - 1;
      const point = Number.parseInt(code[1] ?? code[2] ?? code[3] ?? "", 16);
      return point <= 0x10ffff ? String.fromCodePoint(point) : "\uFFFD";
    }
    return sign === "\n" ? "" : (escapes[sign] ?? sign);
  }

  private skipTo(close: string): void {
    const end = this.text.indexOf(close, this.at);
    this.at = end < 0 ? this.text.length : end + 1;
  }

  private blanks(): void {
    this.match(/(?:\s|#[^\n]*|\/\/[^\n]*|\/\*[\s\S]*?\*\/)*/y);
  }

  private match(pattern: RegExp): RegExpExecArray | null {
    pattern.lastIndex = this.at;
    const match = pattern.exec(this.text);
    if (match) this.at = pattern.lastIndex;
    return match;
  }

  private fail(expected: string): never {
    throw new NotARequest(`The call can't be read: expected ${expected} at character ${this.at + 1}.`);
  }
}

/** `process.env.FERRY_KEY`, `os.environ["FERRY_KEY"]` and `apiKey` as names of variables. */
function variableOf(name: string): string {
  const last =
    name
      .trim()
      .replace(/^.*[[(]\s*["']([\w.-]+)["'][\s\S]*$/, "$1")
      .replace(/[!?()\s]/g, "")
      .split(".")
      .at(-1) ?? "";
  const words = last
    .replace(/([a-z\d])([A-Z])/g, "$1_$2")
    .replace(/\W+/g, "_")
    .toUpperCase();
  return /^[A-Z_]/.test(words) ? words : `VALUE_${words}`;
}
