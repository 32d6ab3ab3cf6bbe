import { withoutBrowsers } from "./har";
import { NotARequest, type PastedRequest } from "./pasted";

/**
 * Reads a call of `fetch` as a browser copies it or as it stands in a program: an address and an object of literals,
 * whose body is a text or `JSON.stringify` of more literals. A name that is filled in becomes `$NAME`.
 * @throws {NotARequest}
 */
export function fetchRequest(text: string): PastedRequest {
  const start = text.search(/\bfetch\s*\(/);
  const literals = new Literals(text, text.indexOf("(", start) + 1);
  const url = literals.value();
  const options = literals.takes(",") ? literals.value() : {};
  if (typeof url !== "string") throw new NotARequest("The call of fetch holds no address.");
  const { method, headers, body } = (typeof options === "object" && options !== null ? options : {}) as Record<
    string,
    unknown
  >;
  const sent = body === undefined || body === null ? "" : typeof body === "string" ? body : JSON.stringify(body);
  const pairs = Array.isArray(headers) ? headers : Object.entries((headers as Record<string, unknown>) ?? {});
  return {
    method: typeof method === "string" ? method.toUpperCase() : sent === "" ? "GET" : "POST",
    url: url.startsWith("//") ? `https:${url}` : url,
    headers: withoutBrowsers(
      pairs.map((each: unknown[]): [string, string] => [String(each[0]), String(each[1] ?? "")]),
    ),
    body: sent,
  };
}

/** Levels that literals may be nested. */
const deepest = 100;
const escapes: Record<string, string> = { n: "\n", t: "\t", r: "\r", b: "\b", f: "\f", v: "\v", "0": "\0" };

/** Reads the literals of a program (ECMAScript), and of names only that they stand for something. */
class Literals {
  private depth = 0;

  constructor(
    private readonly text: string,
    private at: number,
  ) {}

  takes(sign: string): boolean {
    this.blanks();
    if (!this.text.startsWith(sign, this.at)) return false;
    this.at += sign.length;
    return true;
  }

  value(): unknown {
    this.depth += 1;
    if (this.depth > deepest) throw new NotARequest("The call of fetch is nested too deep to be read.");
    const value = this.sum();
    this.depth -= 1;
    return value;
  }

  /** A value, or several texts joined by `+`. */
  private sum(): unknown {
    let value = this.single();
    while (this.takes("+")) value = `${String(value)}${String(this.single())}`;
    return value;
  }

  private single(): unknown {
    this.blanks();
    const sign = this.text[this.at];
    if (sign === '"' || sign === "'" || sign === "`") return this.string(sign);
    if (this.takes("{")) return this.object();
    if (this.takes("[")) return this.list();
    const [number] = this.match(/-?(?:0x[\da-f]+|\d+(?:\.\d+)?(?:e[+-]?\d+)?)(?![\w.])/iy) ?? [];
    if (number !== undefined) return Number(number);
    const [call] = this.match(/JSON\s*\.\s*stringify\s*\(/y) ?? [];
    if (call !== undefined) return this.stringified();
    const [made] = this.match(/new\s+(?:URLSearchParams|Headers|URL)\s*\(/y) ?? [];
    if (made !== undefined) return this.constructed(made);
    const [name] = this.match(/[\p{L}_$][\w$]*(?:\s*\??\.\s*[\p{L}_$][\w$]*)*!?/uy) ?? [];
    if (name === undefined)
      throw new NotARequest(
        `The call of fetch can't be read at ${JSON.stringify(this.text.slice(this.at, this.at + 20))}.`,
      );
    if (name === "true" || name === "false") return name === "true";
    if (name === "null") return null;
    if (name === "undefined") return undefined;
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
        const quote = this.text[this.at];
        const name =
          quote === '"' || quote === "'"
            ? this.string(quote)
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

  private list(): unknown[] {
    const list: unknown[] = [];
    while (!this.takes("]")) {
      list.push(this.value());
      if (!this.takes(",")) {
        if (!this.takes("]")) this.fail('"]"');
        break;
      }
    }
    return list;
  }

  private string(quote: string): string {
    let text = "";
    for (this.at += 1; this.at < this.text.length; this.at++) {
      const sign = this.text[this.at] as string;
      if (sign === quote) {
        this.at += 1;
        return text;
      }
      if (quote === "`" && this.text.startsWith("${", this.at)) {
        const end = this.text.indexOf("}", this.at);
        if (end < 0) break;
        text += `$${variableOf(this.text.slice(this.at + 2, end))}`;
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
    this.match(/(?:\s|\/\/[^\n]*|\/\*[\s\S]*?\*\/)*/y);
  }

  private match(pattern: RegExp): RegExpExecArray | null {
    pattern.lastIndex = this.at;
    const match = pattern.exec(this.text);
    if (match) this.at = pattern.lastIndex;
    return match;
  }

  private fail(expected: string): never {
    throw new NotARequest(`The call of fetch can't be read: expected ${expected} at character ${this.at + 1}.`);
  }
}

/** `process.env.FERRY_KEY` and `apiKey` as names of variables. */
function variableOf(name: string): string {
  const last =
    name
      .trim()
      .replace(/[!?()\s]/g, "")
      .split(".")
      .at(-1) ?? "";
  const words = last
    .replace(/([a-z\d])([A-Z])/g, "$1_$2")
    .replace(/\W+/g, "_")
    .toUpperCase();
  return /^[A-Z_]/.test(words) ? words : `VALUE_${words}`;
}
