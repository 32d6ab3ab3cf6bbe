import { Unreadable } from "./fault";

const quotes = { '"': '"', "“": "”", "„": "“", "«": "»" } as Record<string, string>;

/**
 * What stands on a line, read word by word from the left. What is asked for and not there leaves the place where it
 * was, so that another reading can be tried.
 */
export class Phrase {
  private at = 0;

  constructor(private readonly text: string) {}

  /** Passes over some words, in whatever case; false, and nothing passed, where others stand there. */
  takes(words: string): boolean {
    let at = this.at;
    for (const word of words.split(" ")) {
      while (this.text[at] === " " || this.text[at] === "\t") at += 1;
      const next = this.text.slice(at, at + word.length);
      const after = this.text[at + word.length] ?? " ";
      if (next.toLowerCase() !== word.toLowerCase() || (/\w/.test(word.at(-1) ?? "") && /[\p{L}\p{N}_-]/u.test(after)))
        return false;
      at += word.length;
    }
    this.at = at;
    return true;
  }

  /** Passes over the first of several wordings that stands there, and gives it. */
  takesOne<W extends string>(wordings: readonly W[]): W | undefined {
    return [...wordings].sort((a, b) => b.length - a.length).find((words) => this.takes(words));
  }

  /** A text in quotes, without them; `\n`, `\t`, `\"` and `\\` stand for what can't be typed on a line. */
  quoted(): string | undefined {
    this.skip();
    const close = quotes[this.text[this.at] ?? ""];
    if (close === undefined) return undefined;
    let said = "";
    for (let at = this.at + 1; at < this.text.length; at++) {
      const here = this.text[at] as string;
      if (here === close) {
        this.at = at + 1;
        return said;
      }
      if (here !== "\\") said += here;
      else {
        at += 1;
        const escaped = this.text[at] ?? "";
        said += { n: "\n", t: "\t" }[escaped] ?? escaped;
      }
    }
    throw new Unreadable("a quotation mark is not closed", `Put ${close} behind the text.`);
  }

  /** A text in quotes that says something. @throws {Unreadable} where there is none */
  text1(what: string): string {
    const text = this.quoted();
    if (text === undefined) throw new Unreadable(`${what} is missing`, 'Write it in quotation marks: "…".');
    if (text.trim() === "") throw new Unreadable(`${what} is empty`, "Write some text between the quotation marks.");
    return text;
  }

  /** A number, as digits with a point. */
  number(): number | undefined {
    this.skip();
    const found = /^\d{1,12}(?:\.\d{1,6})?(?![\d.]*\d)/.exec(this.text.slice(this.at))?.[0];
    if (found === undefined) return undefined;
    this.at += found.length;
    return Number(found);
  }

  /** One word of letters, figures and hyphens. */
  word(): string | undefined {
    this.skip();
    const found = /^[\p{L}\p{N}_][\p{L}\p{N}_-]*/u.exec(this.text.slice(this.at))?.[0];
    this.at += found?.length ?? 0;
    return found;
  }

  /** A pattern between slashes with its flags, as JavaScript writes it. */
  pattern(): { source: string; flags: string } | undefined {
    this.skip();
    const found = /^\/((?:[^/\\\n[]|\\.|\[(?:[^\]\\\n]|\\.)*\])+)\/([a-z]*)/u.exec(this.text.slice(this.at));
    if (!found) return undefined;
    this.at += found[0].length;
    return { source: found[1] as string, flags: found[2] ?? "" };
  }

  /** All that is left. */
  rest(): string {
    const rest = this.text.slice(this.at).trim();
    this.at = this.text.length;
    return rest;
  }

  /** What is left, without passing over it. */
  get left(): string {
    return this.text.slice(this.at).trim();
  }

  /** Goes back to the beginning. */
  restart(): void {
    this.at = 0;
  }

  private skip(): void {
    while (/[ \t]/.test(this.text[this.at] ?? "")) this.at += 1;
  }
}

/** A text in quotes, as a phrase reads it. */
export function inQuotes(text: string): string {
  const escaped = text.replace(/[\\"]/g, "\\$&").replaceAll("\n", "\\n").replaceAll("\t", "\\t");
  return `"${escaped}"`;
}
