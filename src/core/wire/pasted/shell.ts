/**
 * A command as the words that a shell would hand to the program. Three shells are read: those of the POSIX kind (with
 * `$'…'`, heredocs, comments and `\` at the end of a line), the Windows command prompt (`^`), and the one with a
 * backtick at the end of a line. Nothing is run and nothing is filled in: variables stay as `$NAME`.
 */
export interface ShellCommand {
  words: string[];
  /** What the command is given on its input, by a heredoc or a here-string. */
  input?: string;
  /** What was read otherwise than a shell would, or left out, in whole sentences. */
  notes: string[];
}

/** Thrown for a text that is no one command; the message says why. */
export class NotACommand extends Error {}

/** @throws {NotACommand} where it goes on with another command */
export function shellCommand(text: string): ShellCommand {
  if (/\^\r?\n|(?:^|\s)\^"/.test(text)) return new Scanner(promptText(text), "prompt").command();
  if (/`\s*\r?\n|\$env:/i.test(text)) return new Scanner(text, "backtick").command();
  return new Scanner(text, "posix").command();
}

/** A command of the Windows prompt with its carets read: one before a line's end goes on, and one before a sign means that sign. */
function promptText(text: string): string {
  return text.replace(/\^\r?\n[ \t]*/g, " ").replace(/\^([\s\S])/g, "$1");
}

const blank = /[ \t\r]/;
const plainEscapes: Record<string, string> = {
  a: "\x07",
  b: "\b",
  e: "\x1b",
  E: "\x1b",
  f: "\f",
  n: "\n",
  r: "\r",
  t: "\t",
  v: "\v",
};

/** Goes through a command once, from left to right. */
class Scanner {
  private at = 0;
  private word: string | undefined;
  private readonly words: string[] = [];
  private readonly notes: string[] = [];
  private readonly heredocs: { end: string; isIndented: boolean }[] = [];
  private input: string | undefined;

  constructor(
    private readonly text: string,
    private readonly shell: "posix" | "prompt" | "backtick",
  ) {}

  command(): ShellCommand {
    while (this.at < this.text.length && !this.isOver()) this.step();
    this.endWord();
    if (this.heredocs.length > 0) this.readHeredocs();
    return { words: this.words, input: this.input, notes: this.notes };
  }

  /** Whether the command has ended: at a pipe, whose reading changes nothing of it, or at the end of its line. */
  private isOver(): boolean {
    const sign = this.text[this.at];
    if (sign === "\n") {
      this.endWord();
      if (this.heredocs.length > 0) {
        this.at += 1;
        this.readHeredocs();
      }
      const rest = this.text.slice(this.at).trim();
      if (this.words.length === 0 && rest !== "") return false;
      // lines that begin with an option are of a command whose line ends were lost
      if (/^-{1,2}\w/.test(rest)) return false;
      if (/^curl\b/.test(rest))
        throw new NotACommand("Paste one command alone: another one follows in a line of its own.");
      if (rest !== "" && !rest.startsWith("#"))
        this.notes.push(`What follows the command was left out: ${shortened(rest)}`);
      return true;
    }
    if (sign === "|" && this.shell !== "prompt" && this.text[this.at + 1] !== "|") {
      this.notes.push(`What reads the answer was left out: ${shortened(this.text.slice(this.at))}`);
      return true;
    }
    return false;
  }

  private step(): void {
    const sign = this.text[this.at] as string;
    if (blank.test(sign) || sign === "\n") {
      this.endWord();
      this.at += 1;
    } else if (sign === "#" && this.word === undefined) this.skipLine();
    else if (sign === "'" && this.shell !== "prompt") this.single();
    else if (sign === '"') this.double();
    else if (sign === "\\" && this.shell === "posix") this.escaped();
    else if (sign === "`" && this.shell === "backtick") this.escaped();
    else if (sign === "$" && this.text[this.at + 1] === "'" && this.shell === "posix") this.ansi();
    else if (sign === "$" || (sign === "`" && this.shell === "posix")) this.add(this.expansion());
    else if (
      sign === "<" ||
      sign === ">" ||
      (/\d/.test(sign) && this.word === undefined && /^\d[<>]/.test(this.rest()))
    )
      this.redirection();
    else if (sign === ";" || sign === "&" || sign === "|" || sign === "(" || sign === ")") this.operator();
    else {
      this.add(sign);
      this.at += 1;
    }
  }

  private rest(): string {
    return this.text.slice(this.at);
  }

  private add(text: string): void {
    this.word = (this.word ?? "") + text;
  }

  private endWord(): void {
    if (this.word !== undefined) this.words.push(this.word);
    this.word = undefined;
  }

  private skipLine(): void {
    const end = this.text.indexOf("\n", this.at);
    this.at = end < 0 ? this.text.length : end;
  }

  private escaped(): void {
    const [next = ""] = /^\r?\n|^[\s\S]?/.exec(this.text.slice(this.at + 1)) ?? [];
    // a line end that is escaped is no part of a word
    if (!/\n$/.test(next)) this.add(next);
    this.at += 1 + next.length;
  }

  private single(): void {
    const from = this.at + 1;
    let end = this.text.indexOf("'", from);
    if (this.shell === "backtick") while (end >= 0 && this.text[end + 1] === "'") end = this.text.indexOf("'", end + 2);
    const inner = this.text.slice(from, end < 0 ? undefined : end);
    this.add(this.shell === "backtick" ? inner.replaceAll("''", "'") : inner);
    this.at = end < 0 ? this.unclosed("'", from) : end + 1;
  }

  private double(): void {
    const from = this.at + 1;
    this.add("");
    for (this.at = from; this.at < this.text.length; ) {
      const sign = this.text[this.at] as string;
      if (sign === '"') {
        this.at += 1;
        return;
      }
      const next = this.text[this.at + 1] ?? "";
      const escaping = this.shell === "backtick" ? "`" : "\\";
      if (sign === escaping) {
        const taken = this.shell === "posix" ? '$`"\\\n' : this.shell === "prompt" ? '"\\' : next;
        if (taken.includes(next) && next !== "") {
          this.add(this.shell === "backtick" ? (plainEscapes[next] ?? next) : next === "\n" ? "" : next);
          this.at += 2;
        } else {
          this.add(sign);
          this.at += 1;
        }
      } else if (sign === "\\" && next === '"' && this.shell === "backtick") {
        this.add('"');
        this.at += 2;
      } else if (sign === "$" || (sign === "`" && this.shell === "posix")) this.add(this.expansion());
      else {
        this.add(sign);
        this.at += 1;
      }
    }
    this.at = this.unclosed('"', from);
  }

  private unclosed(quote: string, from: number): number {
    this.notes.push(
      `A ${quote} was opened before ${shortened(this.text.slice(from))} and is never closed: it was read up to the end.`,
    );
    return this.text.length;
  }

  /** `$'…'`, whose escapes are those of C. */
  private ansi(): void {
    const from = this.at + 2;
    this.add("");
    for (this.at = from; this.at < this.text.length; ) {
      const sign = this.text[this.at] as string;
      if (sign === "'") {
        this.at += 1;
        return;
      }
      if (sign !== "\\") {
        this.add(sign);
        this.at += 1;
        continue;
      }
      const [all, hex, octal, plain = ""] =
        /^\\(?:(x[\da-fA-F]{1,2}|u[\da-fA-F]{1,4}|U[\da-fA-F]{1,8})|([0-7]{1,3})|([\s\S]?))/.exec(this.rest()) ?? [
          "\\",
        ];
      const code = hex ? Number.parseInt(hex.slice(1), 16) : octal ? Number.parseInt(octal, 8) : undefined;
      if (code === undefined) this.add(plainEscapes[plain] ?? plain);
      else this.add(code <= 0x10ffff ? String.fromCodePoint(code) : "\uFFFD");
      this.at += all.length;
    }
    this.at = this.unclosed("$'", from);
  }

  /** A variable as `$NAME`; what a command inside would print as a variable that is named for it; a sign that is neither as it is. */
  private expansion(): string {
    const rest = this.rest();
    const cat = /^\$\(\s*cat\s*<<-?\s*(['"]?)(\w+)\1[^\n]*\n([\s\S]*?)\n[ \t]*\2\s*\n?\s*\)/.exec(rest);
    if (cat) {
      this.at += cat[0].length;
      return cat[3] ?? "";
    }
    const variable = /^\$(?:env:)?([A-Za-z_]\w*)|^\$\{(?:env:)?([A-Za-z_]\w*)[^}\n]*\}/i.exec(rest);
    if (variable) {
      this.at += variable[0].length;
      return `$${variable[1] ?? variable[2]}`;
    }
    const inner = /^\$\(([^()]*)\)|^`([^`]*)`/.exec(rest);
    if (inner && this.shell === "posix") {
      this.at += inner[0].length;
      const command = (inner[1] ?? inner[2] ?? "").trim();
      const name =
        command
          .toUpperCase()
          .replace(/[^A-Z0-9]+/g, "_")
          .replace(/^[_\d]+|_+$/g, "") || "PRINTED";
      this.notes.push(`What ${shortened(command)} prints is read from the variable ${name}.`);
      return `$${name}`;
    }
    this.at += 1;
    return rest[0] ?? "";
  }

  private redirection(): void {
    const rest = this.rest();
    const hereString = /^<<<\s*/.exec(rest);
    const heredoc = /^<<(-?)\s*(['"]?)([^\s'"|;&<>]+)\2/.exec(rest);
    const file = /^\d?(?:>>?|<)(?:&\d|&?\s*[^\s|;&]+)/.exec(rest);
    this.endWord();
    if (hereString) {
      this.at += hereString[0].length;
      const before = this.words.length;
      while (this.at < this.text.length && !blank.test(this.text[this.at] as string) && this.text[this.at] !== "\n")
        this.step();
      this.endWord();
      this.input = this.words.splice(before).join(" ");
    } else if (heredoc) {
      this.heredocs.push({ end: heredoc[3] ?? "", isIndented: heredoc[1] === "-" });
      this.at += heredoc[0].length;
    } else if (file) {
      if (/^<\s*[^&\s]/.test(file[0]))
        throw new NotACommand(`Its input stands in the file ${file[0].slice(1).trim()}: paste what is in it.`);
      this.at += file[0].length;
    } else {
      this.add(rest[0] ?? "");
      this.at += 1;
    }
  }

  /** The lines of a heredoc, which stand after the line that names its end. */
  private readHeredocs(): void {
    for (const { end, isIndented } of this.heredocs.splice(0)) {
      const lines: string[] = [];
      for (;;) {
        const lineEnd = this.text.indexOf("\n", this.at);
        const line = this.text.slice(this.at, lineEnd < 0 ? undefined : lineEnd).replace(/\r$/, "");
        this.at = lineEnd < 0 ? this.text.length : lineEnd + 1;
        if (line.trim() === end || (lineEnd < 0 && line === "")) break;
        lines.push(isIndented ? line.replace(/^\t+/, "") : line);
        if (lineEnd < 0) break;
      }
      this.input = lines.join("\n");
    }
  }

  private operator(): void {
    const [sign = ""] = /^(?:&&|\|\||[;&|()])/.exec(this.rest()) ?? [];
    const after = this.text.slice(this.at + sign.length).trim();
    // a sign that ends the command ends nothing else
    if (after === "" && (sign === ";" || sign === "&")) this.at = this.text.length;
    else throw new NotACommand(`Paste one command alone: this goes on with "${sign}".`);
  }
}

function shortened(text: string): string {
  const line = text.replace(/\s+/g, " ").trim();
  return line.length > 60 ? `${line.slice(0, 60)}…` : line;
}
