/**
 * A part of a Markdown text that can be read by itself:
 * - `text` is Markdown; a long table has its head again in each part
 * - `code` is a part of a fence that is too long to be one, without its marks
 * `joins` says how it goes on from the part before it: not at all, as a block of the same thing, or in
 * the middle of a line.
 */
export interface Block {
  kind: "text" | "code";
  text: string;
  joins: "no" | "block" | "line";
  /** Of a part of a fence: which of the fences that were cut, its language, and how many of its characters stand before. */
  fence?: number;
  language?: string;
  after?: number;
}

/** Characters, lines, items, rows and cells that one block has at most, more or less. */
const most = { characters: 6_000, line: 4_000, lines: 60, items: 30, rows: 40, cells: 400 };

const fenceMark = /^( {0,3})(`{3,}|~{3,})/;
const listItem = /^( {0,3})(?:[-*+]|\d{1,9}[.)])(?:\s|$)/;
const delimiterRow = /^ {0,3}\|?\s*:?-+:?\s*(?:\|\s*:?-+:?\s*)*\|?\s*$/;

/** What the block that is still open holds. */
type Kind = "text" | "list" | "table" | "fence" | "code";

/**
 * Cuts Markdown into blocks as it comes. What was cut stays as it is: text that is added goes on from
 * where the last cut was, so that a text costs as much as it is long, in however many parts it comes.
 */
export class Cutter {
  /** The blocks that are closed; they never change. */
  closed: readonly Block[] = [];
  private text = "";
  /** Where the open block begins, and where the first line does that was not looked at. */
  private start = 0;
  private at = 0;
  private kind: Kind = "text";
  private joins: Block["joins"] = "no";
  private lines = 0;
  private items = 0;
  private rows = 0;
  private cells = 0;
  /** The head of a table with its delimiter row, and the line before the one that is looked at. */
  private head = "";
  private before = "";
  /** The mark of the fence that is open, in the block or inside of a list. */
  private mark: string | undefined;
  private fences = 0;
  /** The language of the fence that was opened last. */
  private language = "";
  /** Characters of the fence that is being cut which stand in closed parts. */
  private cutSoFar = 0;
  private isBlank = false;
  private isWritten = false;

  /** Takes the whole text so far. One that does not go on from the text before it is cut anew. */
  take(text: string): void {
    if (text === this.text) return;
    if (!text.startsWith(this.text)) this.reset();
    this.text = text;
    for (;;) {
      const end = text.indexOf("\n", this.at);
      const lineEnd = end < 0 ? text.length : end;
      if (lineEnd - this.at > most.line) this.cutLine(lineEnd);
      else if (end < 0) return;
      else this.line(text.slice(this.at, end), end + 1);
    }
  }

  /** The block that is still open; undefined when nothing is written in it. */
  get open(): Block | undefined {
    const rest = this.text.slice(this.start);
    if (!this.isWritten && !/\S/.test(rest)) return undefined;
    if (this.kind !== "code") return this.block(rest);
    // the last line may be the mark that ends it
    const last = rest.slice(rest.lastIndexOf("\n") + 1);
    const code = this.closes(last) ? rest.slice(0, rest.length - last.length) : rest;
    return code === "" ? undefined : this.codeBlock(code);
  }

  private reset(): void {
    this.closed = [];
    Object.assign(this, { text: "", start: 0, at: 0, fences: 0 });
    this.begin("text", "no");
  }

  /** One whole line, with where the next one begins. */
  private line(line: string, next: number): void {
    const isBlank = line.trim() === "";
    if (this.mark !== undefined) {
      this.lines += 1;
      if (this.closes(line)) this.closeFence(next);
      else {
        this.isWritten = true;
        this.at = next;
        if (this.isFull(next)) this.cutFence(next);
      }
      return;
    }
    const mark = fenceMark.exec(line);
    if (!isBlank) this.cutBefore(line, mark !== null);
    this.note(line, mark);
    this.isWritten ||= !isBlank;
    this.isBlank = isBlank;
    this.before = line;
    this.lines += 1;
    this.at = next;
    const size = next - this.start;
    if (this.kind === "table") {
      if (size > most.characters / 2) this.closeTable();
    } else if (this.kind === "list") {
      if (size > most.characters * 2) this.close(next, "block");
    } else if (this.mark === undefined && this.isFull(next)) this.close(next, "block");
  }

  /** Whether a line ends the fence that is open. */
  private closes(line: string): boolean {
    const mark = fenceMark.exec(line)?.[2];
    return this.mark !== undefined && mark?.startsWith(this.mark) === true && line.trim() === mark;
  }

  /** Closes the open block where a line begins another one. */
  private cutBefore(line: string, isFence: boolean): void {
    if (!this.isWritten) return;
    const isItem = listItem.test(line);
    const goesOn = this.kind === "list" && (isItem || /^\s+\S/.test(line));
    if (this.isBlank && !goesOn) this.close(this.at, "no");
    else if (isFence && !goesOn) this.close(this.at, "no");
    else if (isItem && this.kind === "list" && this.items >= most.items) this.close(this.at, "block");
    else if (this.kind === "table" && this.isLongTable && line.includes("|")) this.closeTable();
  }

  /** Takes note of what a line makes of the open block. */
  private note(line: string, mark: RegExpExecArray | null): void {
    if (mark) {
      this.mark = mark[2];
      this.language = languageIn(line.slice(mark[0].length));
      if (!this.isWritten) this.kind = "fence";
    } else if (listItem.test(line)) {
      if (!this.isWritten) this.kind = "list";
      this.items += 1;
    } else if (this.kind === "table") {
      this.rows += 1;
      this.cells += line.split("|").length;
    } else if (this.kind === "text" && this.lines === 1 && this.before.includes("|") && delimiterRow.test(line)) {
      this.kind = "table";
      this.head = `${this.before}\n${line}\n`;
    }
  }

  private get isLongTable(): boolean {
    return this.rows >= most.rows || this.cells >= most.cells;
  }

  private isFull(next: number): boolean {
    return this.lines >= most.lines || next - this.start > most.characters;
  }

  /** A line that is too long is cut at a space, or in the middle where there is none. */
  private cutLine(lineEnd: number): void {
    const limit = Math.min(this.at + most.line, lineEnd);
    const half = this.at + most.line / 2;
    const space = this.text.slice(half, limit).lastIndexOf(" ");
    const cut = space < 0 ? limit : half + space + 1;
    this.isWritten = true;
    this.at = cut;
    if (this.mark !== undefined) this.cutFence(cut);
    else this.close(cut, "line");
  }

  private closeFence(next: number): void {
    this.mark = undefined;
    this.at = next;
    if (this.kind === "list") return;
    // the mark that ends a fence which was cut belongs to no part of it
    if (this.kind === "code") {
      const end = this.text.lastIndexOf("\n", next - 2) + 1;
      if (end > this.start) this.push(this.block(this.text.slice(this.start, end)));
      this.start = next;
    } else this.push(this.block(this.text.slice(this.start, next)));
    this.start = next;
    this.begin("text", "no");
  }

  /** Closes a part of a fence, which goes on. */
  private cutFence(next: number): void {
    const { mark } = this;
    let text = this.text.slice(this.start, next);
    if (this.kind === "fence") {
      // its first line holds the mark alone
      text = text.slice(text.indexOf("\n") + 1);
      this.beginCut();
      this.kind = "code";
    } else if (this.kind !== "code") {
      // a fence inside of a list: what is left of it stands by itself
      this.close(next, "block");
      this.beginCut();
      this.begin("code", "block");
      this.mark = mark;
      return;
    }
    this.push(this.codeBlock(text));
    this.cutSoFar += text.length;
    this.start = next;
    this.begin("code", "block");
    this.mark = mark;
  }

  private closeTable(): void {
    const { head } = this;
    this.close(this.at, "block");
    this.kind = "table";
    this.head = head;
    this.lines = 2;
  }

  private close(end: number, next: Block["joins"]): void {
    this.push(this.block(this.text.slice(this.start, end)));
    this.start = end;
    this.begin("text", next);
  }

  private push(block: Block): void {
    (this.closed as Block[]).push(block);
  }

  private begin(kind: Kind, joins: Block["joins"]): void {
    Object.assign(this, {
      kind,
      joins,
      lines: 0,
      items: 0,
      rows: 0,
      cells: 0,
      before: "",
      isBlank: false,
      isWritten: false,
    });
    this.mark = undefined;
  }

  private block(text: string): Block {
    if (this.kind === "code") return this.codeBlock(text);
    // a part of a table has the head again, which is shown once
    const whole = this.kind === "table" && this.joins === "block" ? this.head + text : text;
    return { kind: "text", text: whole, joins: this.joins };
  }

  private beginCut(): void {
    this.fences += 1;
    this.cutSoFar = 0;
  }

  private codeBlock(text: string): Block {
    const { joins, fences: fence, language, cutSoFar: after } = this;
    return { kind: "code", text, joins, fence, language, after };
  }
}

/** The name of a language in what stands after the mark that begins a fence. */
export function languageIn(line: string | undefined): string {
  return line?.trim().split(/\s/)[0]?.toLowerCase() ?? "";
}

/** All blocks of a text. */
export function blocksOf(text: string): readonly Block[] {
  const cutter = new Cutter();
  cutter.take(text);
  const { closed, open } = cutter;
  return open ? [...closed, open] : closed;
}
